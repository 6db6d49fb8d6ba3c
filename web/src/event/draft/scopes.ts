import type { EditScope, EventData, Occurrence } from '../../shared/api/client';
import { addDays, addMinutes, dayOf, daysBetween, minutesBetween, type Day } from '../../shared/dates';
import { inputOf } from '../../shared/data/actions';
import { draftOf, withTiming, type EventDraft } from './draft';
import { movedRule, movedStart, shiftDraft, type Shift } from './shift';

export const SCOPES = ['thisDate', 'fromThisDate', 'everyDate'] as const;

/** The series' timing moved to one of its dates. */
const timingOn = (event: EventData, date: string): EventData['timing'] => {
  const { timing } = event;
  if (timing.kind === 'allDay') {
    const days = daysBetween(dayOf(timing.start), dayOf(timing.end));
    return { ...timing, start: date, end: `${addDays(dayOf(date), days)}T00:00:00` };
  }
  return { ...timing, start: date, end: addMinutes(date, minutesBetween(timing.start, timing.end)) };
};

/** What the fields hold before anything is typed, for the dates that are meant. */
export const draftFor = (event: EventData, occurrence: Occurrence, scope: EditScope): EventDraft => {
  const series = draftOf(inputOf(event));
  if (scope === 'everyDate' || !event.rule) return series;
  const change = event.changes.find((c) => c.date === occurrence.date);
  const on = withTiming(series, timingOn(event, occurrence.date));
  if (scope === 'fromThisDate') return on;
  return {
    ...(change?.timing ? withTiming(on, change.timing) : on),
    title: change?.title ?? on.title,
    place: change?.place ?? on.place,
    description: change?.description ?? on.description,
  };
};

/** A draft with a shift of the board; for more dates than one the rule's days go along. */
export const shiftedFor = (blank: EventDraft, shift: Shift, occurrence: Occurrence, scope: EditScope): EventDraft => {
  const draft = shiftDraft(blank, shift);
  return scope === 'thisDate' ? draft : withMovedRule(draft, blank.firstDay, dayOf(occurrence.date), shift.days);
};

/** A draft moved by some days, with its rule: the date on one day is meant, of several weekdays the others stay. */
const withMovedRule = (draft: EventDraft, start: Day, day: Day, days: number): EventDraft => {
  if (!draft.rule || days === 0) return draft;
  const to = addDays(day, days);
  const firstDay = movedStart(draft.rule, start, day, to);
  return {
    ...draft,
    rule: movedRule(draft.rule, day, to),
    firstDay,
    lastDay: addDays(draft.lastDay, daysBetween(draft.firstDay, firstDay)),
  };
};

/**
 * Carries what was typed over to other dates: whatever differs from the old fields differs from the new ones too. When
 * one date was moved and more are meant now, the rule's day goes along; and stays when it is one date again.
 */
export const carryOver = (
  draft: EventDraft,
  from: EventDraft,
  to: EventDraft,
  was: EditScope,
  next: EditScope,
  day: Day,
): EventDraft => {
  const typed = Object.entries(draft).filter(
    ([name, value]) => JSON.stringify(value) !== JSON.stringify(from[name as keyof EventDraft]),
  );
  const days = daysBetween(from.firstDay, draft.firstDay);
  const carried: EventDraft = {
    ...to,
    ...(Object.fromEntries(typed) as Partial<EventDraft>),
    firstDay: addDays(to.firstDay, days),
    lastDay: addDays(to.lastDay, daysBetween(from.lastDay, draft.lastDay)),
  };
  if (next === 'thisDate') return { ...carried, rule: to.rule, follows: to.follows, facts: to.facts };
  return was === 'thisDate' ? withMovedRule(carried, to.firstDay, day, days) : carried;
};
