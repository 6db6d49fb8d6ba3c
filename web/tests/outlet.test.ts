import { describe, expect, it } from 'vitest';
import {
  byDay,
  choiceQuery,
  onReadersClock,
  passes,
  textsOf,
  weekOf,
  wordsFor,
  type Filters,
  type OutletEvent,
  type OutletStart,
} from '../src/outlet/model';
import { spanOf } from '../src/outlet/views';

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

const en = wordsFor(await textsOf('en'));
const fr = wordsFor(await textsOf('fr'));

describe('what visitors read', () => {
  it('says when an event is in full', () => {
    expect(en.span(event({}))).toBe('Monday 23 November 2026, 21:30 – Tuesday 24 November 2026, 0:30');
    expect(en.span(event({ end: '2026-11-23T23:00:00', lastDay: '2026-11-23' }))).toBe(
      'Monday 23 November 2026, 21:30–23:00',
    );
    expect(en.span(event({ end: '2026-11-23T21:30:00', lastDay: '2026-11-23' }))).toBe(
      'Monday 23 November 2026, 21:30',
    );
    expect(en.span(event({ allDay: true, lastDay: '2026-11-23' }))).toBe('Monday 23 November 2026, all day');
    expect(fr.span(event({ allDay: true }))).toBe('lundi 23 novembre 2026 – mardi 24 novembre 2026');
  });

  it('names the year in a list only when it is another one', () => {
    expect(en.heading('2026-12-24', '2026-11-23')).toBe('Thursday 24 December');
    expect(en.heading('2027-01-04', '2026-11-23')).toBe('Monday 4 January 2027');
  });

  it('writes hours as they are wanted', async () => {
    const twelve = wordsFor(await textsOf('fr'), 'twelve');
    expect(['00:05', '11:59', '12:00', '13:30', '23:00'].map((t) => twelve.time(`2026-11-23T${t}:00`))).toEqual([
      '12:05 am',
      '11:59 am',
      '12:00 pm',
      '1:30 pm',
      '11:00 pm',
    ]);
    expect(wordsFor(await textsOf('fr'), 'twentyFour').time('2026-11-23T09:05:00')).toBe('9:05');
    expect(fr.time('2026-11-23T09:05:00')).toBe('9 h 05');
  });
});

describe('times on the reader’s clock', () => {
  const at = (from: string, to: string) => onReadersClock(event({ at: [from, to] }), 'Europe/Paris');

  it('move to their days there', () => {
    expect(at('2026-11-23T22:30:00Z', '2026-11-23T23:30:00Z')).toMatchObject({
      start: '2026-11-23T23:30:00',
      end: '2026-11-24T00:30:00',
      firstDay: '2026-11-23',
      lastDay: '2026-11-24',
    });
    // An end at midnight does not touch the day it opens.
    expect(at('2026-11-23T22:00:00Z', '2026-11-23T23:00:00Z')).toMatchObject({ lastDay: '2026-11-23' });
    // Summer is an hour further.
    expect(at('2026-07-01T22:30:00Z', '2026-07-01T23:00:00Z')).toMatchObject({ firstDay: '2026-07-02' });
  });

  it('leave alone what has no moment', () => {
    const allDay = event({ allDay: true });
    expect(onReadersClock(allDay, 'Pacific/Auckland')).toBe(allDay);
  });
});

describe('what a visitor narrows a page to', () => {
  const all: Filters = { off: [], category: '', text: '' };

  it('keeps an event while one of its calendars is on', () => {
    expect(passes(event({ also: [2] }), { ...all, off: [0] })).toBe(true);
    expect(passes(event({ also: [2] }), { ...all, off: [0, 2] })).toBe(false);
  });

  it('finds every word, whatever its accents, in what is shown', () => {
    const e = event({ title: 'Épreuve de nœuds', place: 'Loft 2', description: '<p>Bring a <b>knife</b></p>' });
    expect(passes(e, { ...all, text: 'epreuve KNIFE' })).toBe(true);
    expect(passes(e, { ...all, text: 'epreuve spoon' })).toBe(false);
    expect(passes(e, { ...all, text: ' <b> ' })).toBe(false);
    expect(passes(e, { ...all, text: '  ' })).toBe(true);
  });

  it('takes one category', () => {
    expect(passes(event({ category: 'Tests' }), { ...all, category: 'Tests' })).toBe(true);
    expect(passes(event({}), { ...all, category: 'Tests' })).toBe(false);
  });
});

describe('what a visitor chose', () => {
  const start = {
    calendars: [
      { title: 'Rigging 2', mark: 1, name: 'ffee0011' },
      { title: 'Navigation', mark: 2, name: '00aa22bb' },
    ],
  } as OutletStart;

  it('has one address, in whichever order it was chosen', () => {
    const filters: Filters = { off: [0, 1], category: 'Test & more', text: ' rope ' };
    expect(choiceQuery(filters, start)).toBe('?category=Test+%26+more&off=00aa22bb,ffee0011&q=rope');
    expect(choiceQuery({ ...filters, off: [1, 0] }, start)).toBe(choiceQuery(filters, start));
    expect(choiceQuery({ off: [], category: '', text: ' ' }, start)).toBe('');
  });
});

describe('lists', () => {
  const camp = event({ id: 'camp', allDay: true, firstDay: '2026-11-20', lastDay: '2026-11-24' });
  const one = event({ id: 'one', firstDay: '2026-11-22', lastDay: '2026-11-22' });
  const ids = (days: [string, OutletEvent[]][]) =>
    days.map(([d, own]) => `${d.slice(8)}:${own.map((e) => e.id).join(',')}`);
  const list = (eachDay: boolean, latestFirst = false) =>
    ids(byDay([camp, one], '2026-11-21', '2026-11-24', { eachDay, latestFirst }));

  it('have an event over several days once, or on each day that is shown', () => {
    expect(list(false)).toEqual(['21:camp', '22:one']);
    expect(list(true)).toEqual(['21:camp', '22:camp,one', '23:camp']);
    expect(list(true, true)).toEqual(['23:camp', '22:one,camp', '21:camp']);
  });
});

describe('the days of a view', () => {
  it('begin with the week’s first day, and hold the whole month', () => {
    expect(weekOf('2026-11-25', 1)).toBe('2026-11-23');
    expect(weekOf('2026-11-25', 7)).toBe('2026-11-22');
    expect(weekOf('2026-11-25', 6)).toBe('2026-11-21');
    expect(spanOf('month', '2026-11-25', { weekStart: 1, wholeMonth: true }, 42)).toEqual(['2026-10-26', '2026-12-07']);
    expect(spanOf('month', '2026-11-28', { weekStart: 1, wholeMonth: false }, 42)).toEqual([
      '2026-11-23',
      '2026-12-28',
    ]);
    expect(spanOf('month', '2026-02-28', { weekStart: 7, wholeMonth: true }, 42)).toEqual(['2026-02-01', '2026-03-01']);
    expect(spanOf('small', '2026-01-31', { weekStart: 1, wholeMonth: true }, 42)).toEqual(['2025-12-29', '2026-02-02']);
    expect(spanOf('week', '2026-11-25', { weekStart: 7, wholeMonth: true }, 42)).toEqual(['2026-11-22', '2026-11-29']);
    expect(spanOf('day', '2026-11-25', { weekStart: 1, wholeMonth: true }, 42)).toEqual(['2026-11-25', '2026-11-26']);
    expect(spanOf('list', '2026-11-25', { weekStart: 1, wholeMonth: true }, 42)).toEqual(['2026-11-25', '2027-01-06']);
  });
});

describe.each(['en', 'fr', 'de', 'es', 'ar'])('in %s', async (language) => {
  const texts = await textsOf(language);
  const words = wordsFor(texts);
  const locale = language === 'en' ? 'en-GB' : `${language}-u-nu-latn`;
  const said = (date: Date, options: Intl.DateTimeFormatOptions) =>
    new Intl.DateTimeFormat(locale, { ...options, timeZone: 'UTC' }).format(date);

  it('days and months are named as the platform names them', () => {
    for (let month = 0; month < 12; month++) {
      const date = new Date(Date.UTC(2027, month, 5));
      expect(texts.months[month]).toBe(said(date, { month: 'long' }));
      expect(texts.monthsShort[month]?.slice(0, 3)).toBe(said(date, { month: 'short' }).slice(0, 3));
    }
    for (let day = 0; day < 7; day++) {
      const date = new Date(Date.UTC(2027, 0, 4 + day));
      expect(texts.weekdays[day]).toBe(said(date, { weekday: 'long' }));
      expect(texts.weekdaysShort[day]).toBe(said(date, { weekday: 'short' }).replace('.', ''));
    }
    // What we write without a comma in English and French others write so, too.
    const bare = (text: string) => (language === 'en' || language === 'fr' ? text.replace(',', '') : text);
    expect(words.day('2027-01-04')).toBe(bare(said(new Date(Date.UTC(2027, 0, 4)), { dateStyle: 'full' })));
  });

  it('a heading says its year only when it is another one', () => {
    expect(words.heading('2027-01-04', '2027-03-01')).not.toContain('2027');
    expect(words.heading('2027-01-04', '2026-03-01')).toBe(words.day('2027-01-04'));
  });
});
