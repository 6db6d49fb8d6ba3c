import type { TFunction } from 'i18next';
import type { Rule } from './api/client';
import { formatDay, type Day } from './dates';

export const WEEKDAYS = ['monday', 'tuesday', 'wednesday', 'thursday', 'friday', 'saturday', 'sunday'] as const;
export type Weekday = (typeof WEEKDAYS)[number];

// Any Monday will do: only the names of the days after it are wanted.
const SOME_MONDAY = Date.UTC(2024, 0, 1);

export const weekdayName = (day: Weekday, language: string, length: 'long' | 'short' = 'long'): string => {
  const date = new Date(SOME_MONDAY + WEEKDAYS.indexOf(day) * 86_400_000).toISOString().slice(0, 10);
  return formatDay(date, language, { weekday: length }).replace('.', '');
};

const joined = (words: string[], language: string): string =>
  new Intl.ListFormat(language, { type: 'conjunction' }).format(words);

/** The parts of a rule that the usual patterns do not have. */
const hasMore = (rule: Rule): boolean =>
  [rule.positions, rule.yearDays, rule.weeks, rule.hours, rule.minutes, rule.seconds].some((part) => part?.length) ||
  !['daily', 'weekly', 'monthly', 'yearly'].includes(rule.frequency);

/** On which day of the month: its number, or a weekday with its number. */
const dayOfMonth = (rule: Rule, start: Day, t: TFunction, language: string): string | null => {
  const numbered = rule.numberedDays ?? [];
  const days = rule.monthDays ?? [];
  if (rule.days.length > 0 || numbered.length + days.length > 1 || (rule.months?.length ?? 0) > 0) return null;
  const one = numbered[0];
  if (one)
    return one.number >= -1 && one.number <= 5
      ? t(`rule.nth.${one.number}`, { weekday: weekdayName(one.day as Weekday, language) })
      : null;
  const day = days[0] ?? Number(start.slice(8));
  return day === -1 ? t('rule.lastDay') : day > 0 ? t('rule.onDay', { day }) : null;
};

/** A rule as a sentence: "Every second week on Tuesday and Thursday, until 12 December 2026". */
export const ruleText = (rule: Rule, start: Day, t: TFunction, language: string): string => {
  const everyWeekday = WEEKDAYS.slice(0, 5);
  const days = rule.days.length > 0 ? (rule.days as Weekday[]) : [];
  const names = joined(
    days.map((day) => weekdayName(day, language)),
    language,
  );
  let text: string;
  const inMonth = rule.frequency === 'monthly' ? dayOfMonth(rule, start, t, language) : '';
  const isPlainYear =
    rule.frequency !== 'yearly' ||
    !(days.length + (rule.numberedDays?.length ?? 0) + (rule.monthDays?.length ?? 0) + (rule.months?.length ?? 0));
  if (hasMore(rule) || inMonth === null || !isPlainYear) {
    text = t('rule.own');
  } else if (rule.frequency === 'monthly') {
    text = t('rule.monthly', { count: rule.interval, day: inMonth });
  } else if (rule.frequency === 'yearly') {
    text = t('rule.yearly', {
      count: rule.interval,
      day: formatDay(start, language, { day: 'numeric', month: 'long' }),
    });
  } else if (rule.frequency === 'daily') {
    text =
      days.length > 0
        ? t('rule.dailyOn', { count: rule.interval, days: names })
        : t('rule.daily', { count: rule.interval });
  } else {
    const on =
      days.length === 5 && everyWeekday.every((day) => days.includes(day))
        ? t('rule.workdays')
        : names || formatDay(start, language, { weekday: 'long' });
    text = t('rule.weekly', { count: rule.interval, days: on });
  }
  if (rule.count) text += t('rule.times', { count: rule.count });
  if (rule.until)
    text += t('rule.until', {
      date: formatDay(rule.until, language, { day: 'numeric', month: 'long', year: 'numeric' }),
    });
  return text;
};
