import type { EditScope, EventData, Occurrence } from '../shared/api/client';
import { addDays, addMinutes, dayOf, daysBetween, minutesBetween } from '../shared/dates';
import { inputOf } from './actions';
import { draftOf, withTiming, type EventDraft } from './draft';

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

/** Carries what was typed over to other dates: whatever differs from the old fields differs from the new ones too. */
export const carryOver = (draft: EventDraft, from: EventDraft, to: EventDraft): EventDraft => {
  const typed = Object.entries(draft).filter(
    ([name, value]) => JSON.stringify(value) !== JSON.stringify(from[name as keyof EventDraft]),
  );
  const carried = { ...to, ...(Object.fromEntries(typed) as Partial<EventDraft>) };
  return {
    ...carried,
    firstDay: addDays(to.firstDay, daysBetween(from.firstDay, draft.firstDay)),
    lastDay: addDays(to.lastDay, daysBetween(from.lastDay, draft.lastDay)),
  };
};
