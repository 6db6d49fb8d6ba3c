import { expect, it } from 'vitest';
import { factsOf } from '../../src/event/draft/draft';
import { dateDifferences, differences } from '../../src/event/differences';
import { eventOf, namesOf } from '../samples';

const NO_RULE = { frequency: 'daily' as const, interval: 1, days: [], count: null, until: null };

it('the history names the fields that differ, formatted text as plain text', () => {
  const before = eventOf({ description: '<p>Bring a <strong>rope</strong></p>' });
  const after = {
    ...before,
    title: 'Bends',
    description: '<p>Bring two</p>',
    facts: factsOf({ isFree: false, isDraft: false, tags: ['oak'] }),
  };
  expect(differences(before, after, namesOf())).toEqual([
    { field: 'title', was: 'Knots', is: 'Bends' },
    { field: 'description', was: 'Bring a rope', is: 'Bring two' },
    { field: 'facts.tags', was: '', is: 'oak' },
  ]);
  expect(differences(before, before, namesOf())).toEqual([]);
});

it('the history says things by their names, days and times as people write them', () => {
  const before = eventOf({});
  const file = { id: 'f', contentId: 'c', name: 'worksheet.pdf', mediaType: 'application/pdf', size: 10 };
  const after = {
    ...before,
    calendarId: 'diary',
    rule: { ...NO_RULE, frequency: 'weekly' as const, interval: 2, days: ['tuesday' as const], count: 6 },
    facts: factsOf({
      isFree: false,
      isDraft: true,
      categoryId: 'trips',
      files: [file],
      reminder: 60,
      limits: [{ calendarId: 'diary', most: 'headlines' }],
    }),
  };
  const told = Object.fromEntries(
    differences(before, after, namesOf({ diary: 'School diary', trips: 'Trips' })).map(({ field, is }) => [field, is]),
  );
  expect(told).toEqual({
    calendarId: 'School diary',
    rule: 'repeat.every.weekly 2 repeat.unit.weekly · Tue · 6 ×',
    'facts.categoryId': 'Trips',
    'facts.isDraft': 'sheet.yes',
    'facts.files': 'worksheet.pdf',
    'facts.reminder': 'facts.hoursBefore',
    'facts.limits': 'School diary: reach.detail.headlines',
  });
});

it('the history says what differs on one date', () => {
  const date = '2026-11-10T09:00:00';
  const change = { date, title: null, place: null, description: null, timing: null, calledOff: false, at: null };
  const facts = {
    setsCategory: true,
    categoryId: 'trips',
    tags: ['sea'],
    files: [{ id: 'f', contentId: 'c', name: 'worksheet.pdf', mediaType: 'application/pdf', size: 10 }],
    withoutLinks: ['https://a.example/'],
  };
  expect(
    dateDifferences(eventOf({}), eventOf({ changes: [{ ...change, facts }] }), namesOf({ trips: 'Trips' })),
  ).toEqual([{ kind: 'changed', date, what: 'Trips, #sea, worksheet.pdf, dates.hasLess' }]);
});
