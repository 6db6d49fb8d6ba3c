import { describe, expect, it } from 'vitest';
import type { Rule } from '../src/shared/api/client';
import { newDraft } from '../src/event/draft/draft';
import { addShift, isNoShift, movedRule, movedStart, NO_SHIFT, shiftDraft } from '../src/event/draft/shift';

const days = { ...newDraft('c', '2026-11-24', 'Camp'), lastDay: '2026-11-26' };
const timed = {
  ...newDraft('c', '2026-11-24', 'Knots'),
  allDay: false,
  from: '22:30',
  lastDay: '2026-11-25',
  to: '00:15',
};

describe('a shift', () => {
  it('moves whole days and keeps their number', () => {
    expect(shiftDraft(days, { ...NO_SHIFT, days: -30, calendarId: 'd' })).toMatchObject({
      calendarId: 'd',
      firstDay: '2026-10-25',
      lastDay: '2026-10-27',
    });
  });

  it('makes longer and shorter, by a day at least', () => {
    expect(shiftDraft(days, { ...NO_SHIFT, longerDays: 2 }).lastDay).toBe('2026-11-28');
    expect(shiftDraft(days, { ...NO_SHIFT, longerDays: -9 })).toMatchObject({
      firstDay: '2026-11-24',
      lastDay: '2026-11-24',
    });
  });

  it('moves a time over midnight and keeps its length, a quarter of an hour at least', () => {
    expect(shiftDraft(timed, { ...NO_SHIFT, minutes: 120 })).toMatchObject({
      firstDay: '2026-11-25',
      from: '00:30',
      lastDay: '2026-11-25',
      to: '02:15',
    });
    expect(shiftDraft(timed, { ...NO_SHIFT, longerMinutes: -600 })).toMatchObject({ from: '22:30', to: '22:45' });
  });

  it('adds up with the next one', () => {
    const twice = addShift({ ...NO_SHIFT, days: 1, calendarId: 'd' }, { ...NO_SHIFT, days: -1 });
    expect(twice).toEqual({ ...NO_SHIFT, calendarId: 'd' });
    expect([isNoShift(twice), isNoShift(NO_SHIFT)]).toEqual([false, true]);
  });
});

const rule = (change: Partial<Rule>): Rule => ({
  frequency: 'weekly',
  interval: 1,
  days: [],
  count: null,
  until: null,
  ...change,
});

describe('a rule whose date is moved', () => {
  it('has that weekday moved, in order, and the others stay', () => {
    const both = rule({ days: ['tuesday', 'thursday'] });
    expect(movedRule(both, '2026-11-24', '2026-11-27').days).toEqual(['thursday', 'friday']);
    // On a weekday it has already there is one date less.
    expect(movedRule(both, '2026-11-24', '2026-11-26').days).toEqual(['thursday']);
  });

  it('keeps its place in the month', () => {
    const second = rule({ frequency: 'monthly', numberedDays: [{ number: 2, day: 'tuesday' }] });
    expect(movedRule(second, '2026-11-10', '2026-11-18').numberedDays).toEqual([{ number: 3, day: 'wednesday' }]);
    const last = rule({ frequency: 'monthly', numberedDays: [{ number: -1, day: 'friday' }] });
    expect(movedRule(last, '2026-11-27', '2026-11-26').numberedDays).toEqual([{ number: -1, day: 'thursday' }]);
    const tenth = rule({ frequency: 'monthly', monthDays: [10] });
    expect(movedRule(tenth, '2026-11-10', '2026-11-12').monthDays).toEqual([12]);
  });

  it('begins with the first date it had, moved or not', () => {
    const both = rule({ days: ['tuesday', 'thursday'] });
    const begins = (start: string, from: string, to: string) => movedStart(both, start, from, to);
    expect(begins('2026-11-24', '2026-11-26', '2026-11-27')).toBe('2026-11-24');
    expect(begins('2026-11-24', '2026-11-24', '2026-11-25')).toBe('2026-11-25');
    expect(begins('2026-11-24', '2026-12-01', '2026-12-04')).toBe('2026-11-26');
    expect(begins('2026-11-24', '2026-11-26', '2026-11-23')).toBe('2026-11-23');
    // It began on a Thursday: the Tuesday of that week never was one.
    expect(begins('2026-11-26', '2026-11-26', '2026-11-27')).toBe('2026-11-27');
    expect(movedStart(rule({ days: ['tuesday'] }), '2026-11-24', '2026-12-01', '2026-12-03')).toBe('2026-11-26');
  });

  it('is the very same where its day follows from the start', () => {
    for (const same of [rule({ frequency: 'daily' }), rule({ frequency: 'yearly' }), rule({})])
      expect(movedRule(same, '2026-11-24', '2026-11-27')).toBe(same);
  });
});
