import type { Occurrence, Rule } from '../../shared/api/client';
import { addDays, addMinutes, at, clockOf, dayOf, daysBetween, weekday, type Day } from '../../shared/dates';
import { WEEKDAYS, type Weekday } from '../../shared/rules';
import type { EventDraft } from './draft';

/** How far something is moved and stretched on the board. */
export interface Shift {
  days: number;
  minutes: number;
  /** How much later it ends, beside being moved. */
  longerDays: number;
  longerMinutes: number;
  /** The calendar it goes to; null where it stays. */
  calendarId: string | null;
  /** The place it goes to; null where it stays. */
  place: string | null;
}

export const NO_SHIFT: Shift = { days: 0, minutes: 0, longerDays: 0, longerMinutes: 0, calendarId: null, place: null };

export const isNoShift = (shift: Shift): boolean =>
  !shift.days &&
  !shift.minutes &&
  !shift.longerDays &&
  !shift.longerMinutes &&
  shift.calendarId === null &&
  shift.place === null;

export const addShift = (a: Shift, b: Shift): Shift => ({
  days: a.days + b.days,
  minutes: a.minutes + b.minutes,
  longerDays: a.longerDays + b.longerDays,
  longerMinutes: a.longerMinutes + b.longerMinutes,
  calendarId: b.calendarId ?? a.calendarId,
  place: b.place ?? a.place,
});

const MIN_LENGTH = 15;

/** A draft moved and stretched; it ends no earlier than it begins. */
export const shiftDraft = (draft: EventDraft, shift: Shift): EventDraft => {
  const calendarId = shift.calendarId ?? draft.calendarId;
  const place = shift.place ?? draft.place;
  if (draft.allDay) {
    const firstDay = addDays(draft.firstDay, shift.days);
    const lastDay = addDays(draft.lastDay, shift.days + shift.longerDays);
    return { ...draft, calendarId, place, firstDay, lastDay: lastDay < firstDay ? firstDay : lastDay };
  }
  const by = shift.days * 1440 + shift.minutes;
  const start = addMinutes(at(draft.firstDay, draft.from), by);
  const least = addMinutes(start, MIN_LENGTH);
  const end = addMinutes(at(draft.lastDay, draft.to), by + shift.longerDays * 1440 + shift.longerMinutes);
  const last = end < least ? least : end;
  return {
    ...draft,
    calendarId,
    place,
    firstDay: dayOf(start),
    from: clockOf(start),
    lastDay: dayOf(last),
    to: clockOf(last),
  };
};

/** Where an occurrence lies after a shift, for showing it before it is done. */
export const shiftedDays = (o: Occurrence, shift: Shift): { first: Day; last: Day } => {
  const first = addDays(o.firstDay, shift.days);
  const last = addDays(o.lastDay, shift.days + shift.longerDays);
  return { first, last: last < first ? first : last };
};

const weekdayOf = (day: Day): Weekday => WEEKDAYS[weekday(day) - 1] ?? 'monday';

/**
 * The rule whose date on one day lies on another one: of a weekly rule that weekday goes along and the others stay, of a
 * monthly one the place in the month.
 */
export const movedRule = (rule: Rule, from: Day, to: Day): Rule => {
  if (from === to) return rule;
  const plain = { ...rule, text: null };
  if (rule.frequency === 'weekly' && rule.days.includes(weekdayOf(from))) {
    const days = new Set(rule.days.map((day) => (day === weekdayOf(from) ? weekdayOf(to) : day)));
    return { ...plain, days: WEEKDAYS.filter((day) => days.has(day)) };
  }
  if (rule.frequency !== 'monthly') return rule;
  const numbered = rule.numberedDays ?? [];
  if (numbered.length === 1 && numbered[0]) {
    const isLast = addDays(to, 7).slice(0, 7) !== to.slice(0, 7);
    const number = numbered[0].number < 0 && isLast ? -1 : Math.ceil(Number(to.slice(8)) / 7);
    return { ...plain, numberedDays: [{ number, day: weekdayOf(to) }] };
  }
  const monthDays = rule.monthDays ?? [];
  return monthDays.length === 1 && daysBetween(from, to) !== 0 ? { ...plain, monthDays: [Number(to.slice(8))] } : rule;
};

/**
 * Where a series begins when its date on one day goes to another one. Of several weekdays only one moves: the first of
 * those the series had in its first week begins it.
 */
export const movedStart = (rule: Rule, start: Day, from: Day, to: Day): Day => {
  const days = daysBetween(from, to);
  const own = rule.days.map((day) => WEEKDAYS.indexOf(day as Weekday) + 1).filter((day) => day >= weekday(start));
  if (rule.frequency !== 'weekly' || rule.days.length < 2 || !rule.days.includes(weekdayOf(from)))
    return addDays(start, days);
  const after = own.map((day) => (day === weekday(from) ? weekday(to) : day));
  return addDays(start, Math.min(...after) - weekday(start));
};
