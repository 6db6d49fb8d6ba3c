import { describe, expect, it } from 'vitest';
import type { Occurrence } from '../src/shared/api/client';
import { linesOn, onDay, packBars } from '../src/board/views/layout';
import { seenIn } from '../src/board/views/seenIn';
import { calendarOf as calendar, occurrenceOf } from './samples';

const occurrence = (eventId: string, firstDay: string, lastDay: string, start = '00:00'): Occurrence =>
  occurrenceOf({
    eventId,
    date: `${firstDay}T${start}:00`,
    title: eventId,
    allDay: start === '00:00',
    start: `${firstDay}T${start}:00`,
    end: `${lastDay}T23:00:00`,
    firstDay,
    lastDay,
  });

describe('events over several days', () => {
  const bars = packBars(
    [
      occurrence('before', '2026-11-20', '2026-11-24'),
      occurrence('middle', '2026-11-24', '2026-11-26'),
      occurrence('after', '2026-11-27', '2026-12-04'),
      occurrence('one day', '2026-11-25', '2026-11-25'),
      occurrence('outside', '2026-11-30', '2026-12-01'),
    ],
    '2026-11-23',
    7,
  );

  it('are cut to the days shown and say so', () => {
    expect(bars.map((b) => [b.occurrence.eventId, b.first, b.last, b.before, b.after])).toEqual([
      ['before', 0, 1, true, false],
      ['middle', 1, 3, false, false],
      ['after', 4, 6, false, true],
    ]);
  });

  it('never lie over each other and use as few lines as they can', () => {
    expect(bars.map((b) => b.line)).toEqual([0, 1, 0]);
    expect([0, 1, 2, 4].map((column) => linesOn(bars, column))).toEqual([1, 2, 2, 1]);
  });
});

it('a day lists whole days first and then by the clock', () => {
  const day = [
    occurrence('late', '2026-11-23', '2026-11-23', '14:00'),
    occurrence('early', '2026-11-23', '2026-11-23', '08:00'),
    occurrence('whole', '2026-11-23', '2026-11-23'),
    occurrence('camp', '2026-11-23', '2026-11-24'),
    occurrence('other day', '2026-11-24', '2026-11-24'),
  ];
  expect(onDay(day, '2026-11-23').map((o) => o.eventId)).toEqual(['whole', 'early', 'late']);
});

it('of what is hidden nothing is seen or counted, but where it stands in another calendar as well', () => {
  const on = (eventId: string, calendarId: string, ...alsoIn: string[]) => ({
    ...occurrence(eventId, '2026-11-24', '2026-11-24'),
    calendarId,
    alsoIn,
  });
  const shown = ['a', 'b'].map((id) => calendar({ id }));
  const all = [
    on('own', 'b', 'a'),
    on('hidden', 'h', 'i'),
    on('beside', 'h', 'i', 'b', 'a'),
    on('beside own', 'a', 'h'),
  ];
  const { seen, calendarOf } = seenIn(
    [...all, { ...on('later', 'a'), firstDay: '2026-11-30', lastDay: '2026-11-30' }],
    shown,
    '2026-11-23',
    7,
  );
  expect(seen.map((o) => [o.eventId, calendarOf(o)?.id])).toEqual([
    ['own', 'b'],
    ['beside', 'b'],
    ['beside own', 'a'],
  ]);
});
