import { formatDay } from './dates';

export const WEEKDAYS = ['monday', 'tuesday', 'wednesday', 'thursday', 'friday', 'saturday', 'sunday'] as const;
export type Weekday = (typeof WEEKDAYS)[number];

// Any Monday will do: only the names of the days after it are wanted.
const SOME_MONDAY = Date.UTC(2024, 0, 1);

export const weekdayName = (day: Weekday, language: string, length: 'long' | 'short' = 'long'): string => {
  const date = new Date(SOME_MONDAY + WEEKDAYS.indexOf(day) * 86_400_000).toISOString().slice(0, 10);
  return formatDay(date, language, { weekday: length }).replace('.', '');
};
