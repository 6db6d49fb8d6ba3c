import { describe, expect, it } from 'vitest';
import type { Board } from '../src/shared/api/client';
import { shownBy, withChanged, type ToldChange } from '../src/shared/data/boardChanges';
import { occurrenceOf } from './samples';

const board = (...ids: string[]): Board => ({
  from: '2026-11-23',
  to: '2026-11-30',
  zone: 'America/Halifax',
  days: [],
  calendars: [],
  occurrences: ids.map((eventId) => occurrenceOf({ eventId, start: '2026-11-24T09:00:00' })),
});
const change = (given: Partial<ToldChange>): ToldChange => ({
  change: 'x',
  ids: ['a'],
  first: '2026-12-10',
  last: '2026-12-10',
  ...given,
});

describe('a change of events', () => {
  it.each([
    [change({}), false],
    [change({ ids: ['b'] }), true],
    [change({ first: '2026-11-29', last: '2026-11-29' }), true],
    [change({ first: '2026-11-30', last: null }), false],
    [change({ first: '2026-09-01', last: null }), true],
    [change({ first: '2026-11-01', last: '2026-11-22' }), false],
    [change({ first: '2026-11-01', last: '2026-11-23' }), true],
  ])('concerns a board that shows it, or would: %j', (told, isShown) => {
    expect(shownBy(board('b', 'c'), [told])).toEqual(isShown ? [told] : []);
  });

  it('takes the place of what its events were, and leaves the others as they are', () => {
    const old = board('b', 'c', 'd');
    const now = [
      occurrenceOf({ eventId: 'c', start: '2026-11-27T09:00:00' }),
      occurrenceOf({ eventId: 'a', start: '2026-11-23T09:00:00' }),
    ];
    const made = withChanged(old, [change({ ids: ['a', 'c'] })], now);
    expect(made.occurrences.map((o) => o.eventId)).toEqual(['a', 'b', 'd', 'c']);
    expect(made.occurrences[1]).toBe(old.occurrences[0]);
    expect(withChanged(made, [change({ ids: ['a'] })], []).occurrences.map((o) => o.eventId)).toEqual(['b', 'd', 'c']);
  });
});
