import { describe, expect, it } from 'vitest';
import type { EventData } from '../src/shared/api/client';
import type { EventDraft } from '../src/event/draft/draft';
import { carryOver, draftFor, shiftedFor } from '../src/event/draft/scopes';
import { NO_SHIFT } from '../src/event/draft/shift';
import { eventOf, occurrenceOf } from './samples';

const event = eventOf({
  rule: { frequency: 'weekly', interval: 1, days: ['tuesday'], count: 8, until: null },
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
});

const on = (date: string) =>
  occurrenceOf({
    date,
    start: date,
    end: date,
    firstDay: date.slice(0, 10),
    lastDay: date.slice(0, 10),
    isSeries: true,
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
  const carry = (typed: EventDraft) => carryOver(typed, here, every, 'thisDate', 'everyDate', '2026-09-08');
  const here = draftFor(event, on('2026-09-08T22:30:00'), 'thisDate');
  const every = draftFor(event, on('2026-09-08T22:30:00'), 'everyDate');

  it('goes along to other dates, and what was not stays theirs', () => {
    const typed = { ...here, place: 'Quay', from: '21:00' };
    expect(carry(typed)).toMatchObject({
      title: 'Knots',
      place: 'Quay',
      from: '21:00',
      firstDay: '2026-09-01',
    });
  });

  it('moves the other dates by as many days', () => {
    const typed = { ...here, firstDay: '2026-09-10', lastDay: '2026-09-11' };
    expect(carry(typed)).toMatchObject({ firstDay: '2026-09-03', lastDay: '2026-09-04' });
  });

  it('takes the rule’s weekday along, and leaves it when it is for one date again', () => {
    const typed = { ...here, firstDay: '2026-09-10', lastDay: '2026-09-11' };
    expect(carry(typed).rule?.days).toEqual(['thursday']);
    const back = carryOver(carry(typed), every, here, 'everyDate', 'thisDate', '2026-09-08');
    expect(back).toEqual(typed);
  });

  it('is moved on the board for one date, or with the rule for all', () => {
    const shift = { ...NO_SHIFT, days: 2, minutes: -90 };
    expect(shiftedFor(here, shift, on('2026-09-08T22:30:00'), 'thisDate')).toMatchObject({
      firstDay: '2026-09-10',
      from: '21:00',
      to: '22:45',
      rule: here.rule,
    });
    expect(shiftedFor(every, shift, on('2026-09-08T22:30:00'), 'everyDate')).toMatchObject({
      firstDay: '2026-09-03',
      rule: { days: ['thursday'] },
    });
  });

  it('is nothing when nothing was typed', () => expect(carry(here)).toEqual(every));
});
