import { describe, expect, it } from 'vitest';
import { dateDifferences } from '../src/event/differences';
import { isOnlyProposed, occurrenceKey } from '../src/shared/occurrences';
import { mayEdit, mayOffer } from '../src/shared/data/rights';
import { calendarOf, eventOf, namesOf, occurrenceOf } from './samples';

const calendars = [
  calendarOf({ role: 'keeper' }),
  calendarOf({ role: 'editor' }),
  calendarOf({ role: 'proposer' }),
  calendarOf({ role: 'reader', mayOffer: false }),
];

it('who keeps the events of a calendar edits, and offers to others', () => {
  expect(calendars.map(mayEdit)).toEqual([true, true, false, false]);
  expect(calendars.map(mayOffer)).toEqual([true, true, true, false]);
});

describe('what a change says', () => {
  it('names the single dates of a series in order', () => {
    const change = (date: string, calledOff: boolean, title: string | null = null) => ({
      date,
      title,
      place: null,
      description: null,
      timing: null,
      calledOff,
      at: '2026-08-01T00:00:00Z',
    });
    const before = eventOf({
      skips: ['2026-09-08T09:00:00'],
      extras: ['2026-09-09T09:00:00'],
      changes: [change('2026-09-15T09:00:00', true), change('2026-09-22T09:00:00', false, 'Hitches')],
    });
    const after = eventOf({
      skips: ['2026-09-29T09:00:00'],
      extras: ['2026-09-10T09:00:00'],
      changes: [
        { ...change('2026-09-22T09:00:00', false, 'Hitches'), at: '2026-08-09T00:00:00Z' },
        change('2026-10-06T09:00:00', true),
        change('2026-10-13T09:00:00', false, 'Bends'),
      ],
    });
    expect(dateDifferences(before, after, namesOf()).map(({ kind, date }) => `${date.slice(5, 10)} ${kind}`)).toEqual([
      '09-08 putBack',
      '09-09 removed',
      '09-10 added',
      '09-15 calledOn',
      '09-29 leftOut',
      '10-06 calledOff',
      '10-13 changed',
    ]);
    expect(dateDifferences(before, before, namesOf())).toEqual([]);
  });
});

describe('an entry that is only proposed', () => {
  it('stands beside the one it would change', () => {
    const real = occurrenceOf();
    const ghost = occurrenceOf({ proposalId: 'p', proposed: 'change' });
    const going = occurrenceOf({ proposalId: 'p', proposed: 'gone' });
    expect([real, ghost, going].map(isOnlyProposed)).toEqual([false, true, false]);
    expect(occurrenceKey(ghost)).not.toBe(occurrenceKey(real));
    expect(occurrenceKey(going)).toBe(occurrenceKey(real));
  });
});
