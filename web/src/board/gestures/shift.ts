import type { Occurrence, Shift } from '../../shared/api/client';
import { addDays, dayOf, daysBetween, minutesBetween, type Day } from '../../shared/dates';

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

/** Where an occurrence lies after a shift, for showing it before it is done. */
export const shiftedDays = (o: Occurrence, shift: Shift): { first: Day; last: Day } => {
  const first = addDays(o.firstDay, shift.days);
  const last = addDays(o.lastDay, shift.days + shift.longerDays);
  return { first, last: last < first ? first : last };
};

/** An event that is being moved. */
export interface Moving {
  /** As it was seen when that began. */
  began: Occurrence;
  /** How far it was moved since, or is about to be. */
  sent: Shift;
  /** What comes next. */
  left: Shift;
}

/**
 * What comes next when it is dropped somewhere else meanwhile: it was dropped from where it was still seen, and keeps the
 * length it is to have.
 * @param drop how far it was dragged from where it was seen
 * @param seen as it was seen
 */
export const dropLeft = (drop: Shift, seen: Occurrence, { began, sent, left }: Moving): Shift => {
  const days = daysBetween(dayOf(began.start), dayOf(seen.start));
  const minutes = minutesBetween(began.start, seen.start) - days * 1440;
  const calendarId = drop.calendarId ?? (sent.calendarId && seen.calendarId);
  const place = drop.place ?? (sent.place === null ? null : seen.place);
  return {
    ...left,
    days: drop.days + days - sent.days,
    minutes: drop.minutes + minutes - sent.minutes,
    calendarId: calendarId === sent.calendarId ? null : calendarId,
    place: place === sent.place ? null : place,
  };
};
