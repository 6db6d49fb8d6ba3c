import { describe, expect, it } from 'vitest';
import { addShift, dropLeft, isNoShift, NO_SHIFT, shiftedDays } from '../src/board/gestures/shift';
import { addDays, addMinutes, dayOf } from '../src/shared/dates';
import { occurrenceOf } from './samples';

describe('a shift', () => {
  it('adds up with the next one', () => {
    const twice = addShift({ ...NO_SHIFT, days: 1, calendarId: 'd' }, { ...NO_SHIFT, days: -1 });
    expect(twice).toEqual({ ...NO_SHIFT, calendarId: 'd' });
    expect([isNoShift(twice), isNoShift(NO_SHIFT)]).toEqual([false, true]);
  });

  it('shows where something would lie, a day at least', () => {
    const camp = occurrenceOf({ firstDay: '2026-11-24', lastDay: '2026-11-26' });
    expect(shiftedDays(camp, { ...NO_SHIFT, days: 2, longerDays: 1 })).toEqual({
      first: '2026-11-26',
      last: '2026-11-29',
    });
    expect(shiftedDays(camp, { ...NO_SHIFT, longerDays: -9 })).toEqual({ first: '2026-11-24', last: '2026-11-24' });
  });

  it('that is dropped while another one is made leads to where it was dropped, seen moved yet or not', () => {
    const began = occurrenceOf({ calendarId: 'a', place: 'Loft', start: '2026-11-24T09:00:00' });
    const lies = (o: typeof began, by: typeof NO_SHIFT) => ({
      at: addMinutes(`${addDays(dayOf(o.start), by.days)}${o.start.slice(10)}`, by.minutes),
      calendarId: by.calendarId ?? o.calendarId,
      place: by.place ?? o.place,
    });
    const shifts = [-1, 0, 2].flatMap((days) =>
      [-30, 0, 45].flatMap((minutes) =>
        [null, 'a', 'b'].flatMap((calendarId) =>
          [null, 'Loft', 'Quay'].map((place) => ({ ...NO_SHIFT, days, minutes, calendarId, place })),
        ),
      ),
    );
    for (const sent of shifts)
      for (const drop of shifts) {
        const moved = lies(began, sent);
        for (const seen of [began, { ...began, ...moved, start: moved.at }]) {
          const left = dropLeft(drop, seen, { began, sent, left: NO_SHIFT });
          expect(lies({ ...began, ...moved, start: moved.at }, left)).toEqual(lies(seen, drop));
        }
      }
    // Dropped there once more nothing is left.
    const once = { ...NO_SHIFT, days: 2, calendarId: 'b' };
    expect(isNoShift(dropLeft(once, began, { began, sent: once, left: NO_SHIFT }))).toBe(true);
    // What was made longer meanwhile stays so, and what it was moved beside is made good by the drop.
    const left = { ...NO_SHIFT, days: 1, longerDays: 1 };
    expect(dropLeft(once, began, { began, sent: NO_SHIFT, left })).toEqual({ ...once, longerDays: 1 });
  });
});
