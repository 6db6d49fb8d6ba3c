import { describe, expect, it } from 'vitest';
import { addShift, isNoShift, NO_SHIFT, shiftedDays } from '../src/board/gestures/shift';
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
});
