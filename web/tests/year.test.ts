import { describe, expect, it } from 'vitest';
import type { SchoolYear } from '../src/shared/api/client';
import { firstYear, lettersOf, monthsOf, nextYear, spanOf } from '../src/year/yearDraft';
import { yearName } from '../src/shared/dates';

const YEAR = { first: '2026-08-01', last: '2027-07-31' };

describe('a school year', () => {
  const year: SchoolYear = {
    ...firstYear('2026-11-24'),
    id: 'y',
    version: 4,
    terms: [{ name: 'Autumn', first: '2026-09-08', last: '2026-12-18' }],
    closures: [{ name: 'Storm', first: '2026-11-27', last: '2026-11-27', calendarIds: [] }],
    pins: [{ date: '2026-11-30', cycleDay: 2 }],
    cycleLength: 6,
  };

  it('begins in August', () => {
    expect(firstYear('2026-08-01').first).toBe('2026-08-01');
    expect(firstYear('2026-07-31')).toMatchObject({ first: '2025-08-01', last: '2026-07-31' });
  });

  it('is followed by one with the same settings and its terms on the same weekdays, without its closures', () => {
    expect(nextYear(year)).toMatchObject({
      first: '2027-08-01',
      last: '2028-07-31',
      terms: [{ name: 'Autumn', first: '2027-09-07', last: '2027-12-17' }],
      closures: [],
      pins: [],
      cycleLength: 6,
      version: null,
    });
  });

  it('is named by its years and shown by its months', () => {
    expect([yearName(year), yearName({ first: '2027-01-01', last: '2027-12-31' })]).toEqual(['2026–2027', '2027']);
    expect(monthsOf(YEAR.first, YEAR.last)).toHaveLength(12);
  });

  it('keeps drawn days in order and within it', () => {
    expect(spanOf('2026-11-27', '2026-11-25', YEAR)).toEqual({ first: '2026-11-25', last: '2026-11-27' });
    expect(spanOf('2026-07-20', '2026-08-02', YEAR)).toEqual({ first: '2026-08-01', last: '2026-08-02' });
  });

  it('takes letters as they are typed', () => {
    expect(lettersOf(' A, B ;C ')).toEqual(['A', 'B', 'C']);
    expect(lettersOf(' ')).toEqual([]);
  });
});
