import { describe, expect, it } from 'vitest';
import { dateDifferences } from '../src/proposals/ProposalBody';
import type { Calendar } from '../src/shared/api/client';
import { differences } from '../src/event/History';
import { isOnlyProposed, occurrenceKey } from '../src/shared/occurrences';
import { mayEdit, mayOffer, toAsk } from '../src/shared/data/rights';
import { factsOf } from '../src/event/draft/draft';
import { eventOf, occurrenceOf } from './samples';

const calendar = (id: string, role: Calendar['role'], offers = true): Calendar => ({
  id,
  title: `Calendar ${id}`,
  description: '',
  group: '',
  zone: 'America/Halifax',
  mark: 1,
  reach: { members: 'everything', linkHolders: 'nothing', everyone: 'nothing' },
  version: 1,
  inBin: false,
  role,
  mayOffer: offers,
  isOutOfSearch: false,
});
const calendars = [
  calendar('kept', 'keeper'),
  calendar('edited', 'editor'),
  calendar('proposed', 'proposer'),
  calendar('read', 'reader', false),
];
const placed = (calendarId: string, ...alsoIn: string[]) => ({ calendarId, facts: { alsoIn } });
const asked = (...args: Parameters<typeof toAsk>) => toAsk(...args).map((c) => c.id);

describe('who has to be asked', () => {
  it('is nobody where one keeps the events', () => {
    expect(calendars.map(mayEdit)).toEqual([true, true, false, false]);
    expect(calendars.map(mayOffer)).toEqual([true, true, true, false]);
    expect(asked(placed('kept', 'edited'), calendars)).toEqual([]);
  });

  it('is each calendar of others it shall stand in', () => {
    expect(asked(placed('kept', 'proposed', 'edited'), calendars)).toEqual(['proposed']);
    expect(asked(placed('proposed', 'kept', 'read'), calendars)).toEqual(['proposed', 'read']);
    expect(asked(placed('gone'), calendars)).toEqual([]);
  });

  it('is not asked again for where it stands already, but for a change at home', () => {
    expect(asked(placed('kept', 'proposed'), calendars, placed('kept', 'proposed'))).toEqual([]);
    expect(asked(placed('proposed', 'read'), calendars, placed('proposed', 'read'))).toEqual(['proposed']);
    expect(asked(placed('kept', 'proposed'), calendars, placed('kept'))).toEqual(['proposed']);
  });
});

describe('what a change says', () => {
  it('names the fields that differ, formatted text as plain text', () => {
    const before = eventOf({ description: '<p>Bring a <strong>rope</strong></p>' });
    const after = {
      ...before,
      title: 'Bends',
      description: '<p>Bring two</p>',
      facts: factsOf({ isFree: false, isDraft: false, tags: ['oak'] }),
    };
    expect(differences(before, after, calendars)).toEqual([
      { field: 'title', was: 'Knots', is: 'Bends' },
      { field: 'description', was: 'Bring a rope', is: 'Bring two' },
      { field: 'facts.tags', was: '', is: 'oak' },
    ]);
    expect(differences(before, before, calendars)).toEqual([]);
  });

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
    expect(dateDifferences(before, after).map(({ kind, date }) => `${date.slice(5, 10)} ${kind}`)).toEqual([
      '09-08 putBack',
      '09-09 removed',
      '09-10 added',
      '09-15 calledOn',
      '09-29 leftOut',
      '10-06 calledOff',
      '10-13 changed',
    ]);
    expect(dateDifferences(before, before)).toEqual([]);
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
