import { describe, expect, it } from 'vitest';
import type { EventData, Occurrence } from '../src/shared/api/client';
import { carryOver, draftFor } from '../src/workspace/scopes';

const event: EventData = {
  id: 'e',
  calendarId: 'c',
  title: 'Knots',
  place: 'Loft 2',
  description: 'Bring a rope',
  timing: { kind: 'zoned', start: '2026-09-01T22:30:00', end: '2026-09-02T00:15:00', zone: 'America/Halifax' },
  rule: { frequency: 'weekly', interval: 1, days: ['tuesday'], count: 8, until: null },
  skips: [],
  extras: [],
  changes: [
    {
      date: '2026-09-15T22:30:00',
      title: 'Exam',
      place: null,
      description: null,
      timing: { kind: 'zoned', start: '2026-09-16T14:00:00', end: '2026-09-16T15:00:00', zone: 'America/Halifax' },
      calledOff: false,
    },
  ],
  version: 3,
  createdAt: '2026-08-01T00:00:00Z',
  changedAt: '2026-08-01T00:00:00Z',
  inBin: false,
};

const on = (date: string): Occurrence => ({
  eventId: 'e',
  calendarId: 'c',
  date,
  title: 'Knots',
  place: '',
  allDay: false,
  start: date,
  end: date,
  firstDay: date.slice(0, 10),
  lastDay: date.slice(0, 10),
  isSeries: true,
  isChanged: false,
  isCalledOff: false,
});

describe('the fields of a series', () => {
  it('are those of one date, with its own length, when that date is meant', () => {
    expect(draftFor(event, on('2026-09-08T22:30:00'), 'thisDate')).toMatchObject({
      title: 'Knots',
      firstDay: '2026-09-08',
      from: '22:30',
      lastDay: '2026-09-09',
      to: '00:15',
    });
  });

  it('are what was changed on it, and the series’ where nothing was', () => {
    expect(draftFor(event, on('2026-09-15T22:30:00'), 'thisDate')).toMatchObject({
      title: 'Exam',
      place: 'Loft 2',
      firstDay: '2026-09-16',
      from: '14:00',
      to: '15:00',
    });
  });

  it('are the series’ own from a date on and for every date, whatever was changed on the one', () => {
    expect(draftFor(event, on('2026-09-15T22:30:00'), 'fromThisDate')).toMatchObject({
      title: 'Knots',
      firstDay: '2026-09-15',
      from: '22:30',
    });
    expect(draftFor(event, on('2026-09-15T22:30:00'), 'everyDate')).toMatchObject({
      title: 'Knots',
      firstDay: '2026-09-01',
    });
  });

  it('keep whole days whole', () => {
    const camp: EventData = {
      ...event,
      timing: { kind: 'allDay', start: '2026-09-01T00:00:00', end: '2026-09-03T00:00:00', zone: null },
    };
    expect(draftFor(camp, on('2026-10-30T00:00:00'), 'fromThisDate')).toMatchObject({
      allDay: true,
      firstDay: '2026-10-30',
      lastDay: '2026-11-01',
    });
  });
});

describe('what was typed', () => {
  const here = draftFor(event, on('2026-09-08T22:30:00'), 'thisDate');
  const every = draftFor(event, on('2026-09-08T22:30:00'), 'everyDate');

  it('goes along to other dates, and what was not stays theirs', () => {
    const typed = { ...here, place: 'Quay', from: '21:00' };
    expect(carryOver(typed, here, every)).toMatchObject({
      title: 'Knots',
      place: 'Quay',
      from: '21:00',
      firstDay: '2026-09-01',
    });
  });

  it('moves the other dates by as many days', () => {
    const typed = { ...here, firstDay: '2026-09-10', lastDay: '2026-09-11' };
    expect(carryOver(typed, here, every)).toMatchObject({ firstDay: '2026-09-03', lastDay: '2026-09-04' });
  });

  it('is nothing when nothing was typed', () => expect(carryOver(here, here, every)).toEqual(every));
});
