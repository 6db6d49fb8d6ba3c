import { afterEach, describe, expect, it } from 'vitest';
import {
  addDays,
  addMonths,
  clockText,
  dayRangeText,
  daysBetween,
  firstOfWeek,
  longDay,
  monday,
  setHabits,
  shortDay,
  weekday,
  zoneCity,
} from '../src/shared/dates';

describe('days', () => {
  it('are counted without any machine zone, over clock changes and leap days', () => {
    expect(addDays('2026-10-31', 1)).toBe('2026-11-01');
    expect(addDays('2026-11-01', 1)).toBe('2026-11-02');
    expect(addDays('2028-02-28', 1)).toBe('2028-02-29');
    expect(daysBetween('2026-08-01', '2027-08-01')).toBe(365);
    expect(addMonths('2026-12-31', 1)).toBe('2027-01-01');
  });

  it('know their weekday and their Monday', () => {
    expect([weekday('2026-11-23'), weekday('2026-11-29')]).toEqual([1, 7]);
    expect([monday('2026-11-23'), monday('2026-11-29')]).toEqual(['2026-11-23', '2026-11-23']);
  });

  it('are written as the language writes them', () => {
    expect(shortDay('2026-11-23', 'en')).toBe('Mon 23 Nov');
    expect(dayRangeText('2026-11-23', '2026-11-27', 'en')).toBe('23 – 27 November 2026');
    expect(dayRangeText('2026-11-30', '2026-12-06', 'en')).toBe('30 November – 6 December 2026');
    expect(dayRangeText('2026-12-28', '2027-01-03', 'en')).toBe('28 December 2026 – 3 January 2027');
    expect(dayRangeText('2026-11-23', '2026-11-23', 'fr')).toBe('23 novembre 2026');
  });
});

it('a zone is called after its place', () => expect(zoneCity('America/St_Johns')).toBe('St Johns'));

describe('how a person wants dates and times', () => {
  afterEach(() => setHabits({ hours: null, monthFirst: false, weekStart: 1 }));

  it('is twelve hours', () => {
    setHabits({ hours: 12, monthFirst: false, weekStart: 1 });
    expect(['00:05', '09:30', '12:00', '23:59'].map((clock) => clockText(`2026-11-23T${clock}:00`, 'en'))).toEqual([
      '12:05 am',
      '9:30 am',
      '12:00 pm',
      '11:59 pm',
    ]);
    expect(clockText('2026-11-23T14:30:00', 'fr')).toBe('2 h 30 pm');
  });

  it('is the month first, in English', () => {
    expect(longDay('2026-11-23', 'en')).toBe('Monday 23 November');
    setHabits({ hours: null, monthFirst: true, weekStart: 1 });
    expect(longDay('2026-11-23', 'en')).toBe('Monday November 23');
    expect(dayRangeText('2026-11-23', '2026-11-29', 'en')).toBe('November 23 – November 29, 2026');
    expect(longDay('2026-11-23', 'fr')).toBe('lundi 23 novembre');
    setHabits({ hours: null, monthFirst: false, weekStart: 1 });
    expect(dayRangeText('2026-11-23', '2026-11-29', 'en')).toBe('23 – 29 November 2026');
  });

  it('is a week that begins on another day', () => {
    // 25 November 2026 is a Wednesday.
    const begins = (weekStart: number) => {
      setHabits({ hours: null, monthFirst: false, weekStart });
      return ['2026-11-21', '2026-11-22', '2026-11-23', '2026-11-25'].map(firstOfWeek);
    };
    expect(begins(1)).toEqual(['2026-11-16', '2026-11-16', '2026-11-23', '2026-11-23']);
    expect(begins(7)).toEqual(['2026-11-15', '2026-11-22', '2026-11-22', '2026-11-22']);
    expect(begins(6)).toEqual(['2026-11-21', '2026-11-21', '2026-11-21', '2026-11-21']);
    // Weeks of a term are counted from Mondays all the same.
    expect(monday('2026-11-22')).toBe('2026-11-16');
  });
});
