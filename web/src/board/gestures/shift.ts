import type { Occurrence, Shift } from '../../shared/api/client';
import { addDays, type Day } from '../../shared/dates';

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
