import { describe, expect, it } from 'vitest';
import type { Calendar, Category } from '../src/shared/api/client';
import { minutesAhead } from '../src/shared/dates';
import { arrange, fromParams, moveRow, stepRow, toParams, type Arrangement } from '../src/board/arrangement';
import { packHours } from '../src/board/views/layout';
import { isLong } from '../src/shared/occurrences';
import { filtered, NO_FILTER, sorted } from '../src/board/views/listRows';
import { occurrenceOf } from './samples';

const timed = (eventId: string, start: string, end: string) =>
  occurrenceOf({
    eventId,
    date: `2026-11-24T${start}:00`,
    start: `2026-11-24T${start}:00`,
    end: end > start ? `2026-11-24T${end}:00` : `2026-11-25T${end}:00`,
    firstDay: '2026-11-24',
    lastDay: end > start ? '2026-11-24' : '2026-11-25',
  });

describe('the hours of a day', () => {
  const laid = (...parts: ReturnType<typeof timed>[]) =>
    packHours(parts, '2026-11-24').map((p) => [p.occurrence.eventId, p.from, p.to, p.column, p.columns]);

  it('lays overlapping events beside each other, in as few columns as each group needs', () => {
    expect(
      laid(
        timed('a', '09:00', '11:00'),
        timed('b', '10:00', '12:00'),
        timed('c', '11:00', '12:00'),
        timed('d', '14:00', '15:00'),
      ),
    ).toEqual([
      ['a', 540, 660, 0, 2],
      ['b', 600, 720, 1, 2],
      ['c', 660, 720, 0, 2],
      ['d', 840, 900, 0, 1],
    ]);
  });

  it('cuts what goes over midnight and gives room to what lasts no time', () => {
    expect(laid(timed('night', '22:00', '01:30'), timed('bell', '22:00', '22:00'))).toEqual([
      ['night', 1320, 1440, 0, 1],
    ]);
    expect(packHours([timed('night', '22:00', '01:30')], '2026-11-25')).toMatchObject([{ from: 0, to: 90 }]);
    const bell = occurrenceOf({ eventId: 'bell', start: '2026-11-24T22:00:00', end: '2026-11-24T22:00:00' });
    expect(packHours([timed('night', '22:00', '01:30'), bell], '2026-11-24').map((p) => p.column)).toEqual([0, 1]);
  });

  it('leaves whole days and what lasts a day to the row above', () => {
    const camp = occurrenceOf({ start: '2026-11-24T10:00:00', end: '2026-11-25T10:00:00' });
    expect([isLong(camp), isLong(occurrenceOf({ allDay: true })), isLong(occurrenceOf())]).toEqual([true, true, false]);
    expect(packHours([camp], '2026-11-24')).toEqual([]);
  });

  it('knows how far one clock is ahead of another, also when only one has changed', () => {
    expect(minutesAhead('Europe/London', 'America/Halifax', '2026-11-24')).toBe(240);
    expect(minutesAhead('Europe/London', 'America/Halifax', '2026-10-27')).toBe(180);
    expect(minutesAhead('Asia/Kolkata', 'UTC', '2026-11-24')).toBe(330);
  });
});

describe('the rows of the lanes', () => {
  const calendar = (id: string, group: string) =>
    ({ id: `018f-${id.padStart(12, '0')}`, title: id, group }) as Calendar;
  const [a, b, c, d] = [calendar('a', 'Mine'), calendar('b', 'Mine'), calendar('c', 'Others'), calendar('d', 'Others')];
  const all = [a, b, c, d];
  const plain: Arrangement = { groups: null, folded: [], hidden: [] };
  const titles = (now: Arrangement) => arrange(all, now).map((g) => [g.name, g.calendars.map((x) => x.title).join('')]);

  it('stand as the calendars say until a person orders them', () => {
    expect(titles(plain)).toEqual([
      ['Mine', 'ab'],
      ['Others', 'cd'],
    ]);
    expect(titles({ ...plain, hidden: [a.id, b.id] })).toEqual([['Others', 'cd']]);
  });

  it('are moved before another one, and step over headings', () => {
    expect(titles(moveRow(all, plain, d.id, a.id))).toEqual([
      ['Mine', 'dab'],
      ['Others', 'c'],
    ]);
    expect(titles(stepRow(all, plain, b.id, -1))[0]).toEqual(['Mine', 'ba']);
    expect(titles(stepRow(all, plain, b.id, 1))).toEqual([
      ['Mine', 'a'],
      ['Others', 'bcd'],
    ]);
    expect(titles(stepRow(all, plain, a.id, -1))).toEqual(titles(plain));
    // A hidden row between two is stepped over.
    expect(titles(stepRow(all, { ...plain, hidden: [b.id] }, a.id, 1))[0]).toEqual(['Others', 'acd']);
  });

  it('take in a calendar that came since, and forget one that is gone', () => {
    const now = moveRow(all, plain, d.id, a.id);
    const later = arrange([a, c, d, calendar('e', 'New')], now);
    expect(later.map((g) => [g.name, g.calendars.map((x) => x.title).join('')])).toEqual([
      ['Mine', 'da'],
      ['Others', 'c'],
      ['New', 'e'],
    ]);
  });

  it('stand in an address and come back from it', () => {
    const now = { ...moveRow(all, plain, d.id, a.id), folded: [c.id], hidden: [b.id] };
    const params = new URLSearchParams(toParams(now));
    expect(fromParams(params, all)).toEqual(now);
    expect(fromParams(new URLSearchParams('form=lanes'), all)).toBeNull();
    expect(fromParams(new URLSearchParams('hide=unknown'), all)).toEqual(plain);
  });
});

describe('the list', () => {
  const categories: Category[] = [
    { id: 'test', name: 'Test', parentId: null, isAssessment: true },
    { id: 'exam', name: 'Examination', parentId: 'test', isAssessment: true },
  ];
  const rows = [
    occurrenceOf({ eventId: '1', title: 'Épissure', place: 'Loft 2', categoryId: 'exam', tags: ['rope'] }),
    occurrenceOf({ eventId: '2', title: 'Chart work', start: '2026-09-01T08:00:00', isDraft: true }),
    occurrenceOf({ eventId: '3', title: 'Tides', alsoIn: ['d'], isCalledOff: true, isChanged: true }),
  ];
  const ids = (filter: object) =>
    filtered(rows, { ...NO_FILTER, ...filter }, categories)
      .map((o) => o.eventId)
      .join('');

  it('is narrowed by words without accents, and by what a date is', () => {
    expect(ids({})).toBe('123');
    expect(ids({ text: 'epis loft' })).toBe('1');
    expect(ids({ text: '#rope' })).toBe('1');
    expect(ids({ categoryId: 'test' })).toBe('1');
    expect(ids({ calendarId: 'd' })).toBe('3');
    expect(ids({ tag: 'rope' })).toBe('1');
    expect([ids({ flag: 'draft' }), ids({ flag: 'withoutPlace' }), ids({ flag: 'calledOff' })]).toEqual([
      '2',
      '23',
      '3',
    ]);
  });

  it('is sorted by a column, within it by time, both ways', () => {
    const order = (column: 'when' | 'title' | 'notes', down = false) =>
      sorted(
        rows,
        column,
        down,
        () => '',
        () => '',
      )
        .map((o) => o.eventId)
        .join('');
    expect([order('when'), order('when', true)]).toEqual(['213', '312']);
    expect(order('title')).toBe('213');
    expect(order('notes')).toBe('231');
  });
});
