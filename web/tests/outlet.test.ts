import { describe, expect, it } from 'vitest';
import { textsOf, wordsFor, type OutletEvent } from '../src/outlet/model';

const event = (change: Partial<OutletEvent>): OutletEvent => ({
  id: 'e',
  calendar: 0,
  title: 'Night row',
  allDay: false,
  start: '2026-11-23T21:30:00',
  end: '2026-11-24T00:30:00',
  firstDay: '2026-11-23',
  lastDay: '2026-11-24',
  ...change,
});

describe('what visitors read', () => {
  const en = wordsFor(textsOf('en'));
  const fr = wordsFor(textsOf('fr'));

  it('says when an event is in full', () => {
    expect(en.span(event({}))).toBe('Monday 23 November 2026, 21:30 – Tuesday 24 November 2026, 0:30');
    expect(en.span(event({ end: '2026-11-23T23:00:00', lastDay: '2026-11-23' }))).toBe(
      'Monday 23 November 2026, 21:30–23:00',
    );
    expect(en.span(event({ allDay: true, lastDay: '2026-11-23' }))).toBe('Monday 23 November 2026, all day');
    expect(fr.span(event({ allDay: true }))).toBe('lundi 23 novembre 2026 – mardi 24 novembre 2026');
  });

  it('names the year in a list only when it is another one', () => {
    expect(en.heading('2026-12-24', '2026-11-23')).toBe('Thursday 24 December');
    expect(en.heading('2027-01-04', '2026-11-23')).toBe('Monday 4 January 2027');
  });
});
