// Dates are ISO texts ("2026-11-23") and local times ("2026-11-23T08:20:00"): what the server computed stays as it is
// and no machine's own zone can shift it. Date objects appear only for arithmetic and formatting, always in UTC.

export type Day = string;
export type LocalTime = string;

export const DAY_MS = 86_400_000;

const toUtc = (day: Day): Date => new Date(`${day.slice(0, 10)}T00:00:00Z`);

export const addDays = (day: Day, days: number): Day =>
  new Date(toUtc(day).getTime() + days * DAY_MS).toISOString().slice(0, 10);

export const daysBetween = (from: Day, to: Day): number =>
  Math.round((toUtc(to).getTime() - toUtc(from).getTime()) / DAY_MS);

/** 1 for Monday to 7 for Sunday. */
export const weekday = (day: Day): number => toUtc(day).getUTCDay() || 7;

export const monday = (day: Day): Day => addDays(day, 1 - weekday(day));

/** How a person wants dates and times; null is as the language has it. */
export interface Habits {
  hours: 12 | 24 | null;
  monthFirst: boolean;
  /** 1 for Monday to 7 for Sunday. */
  weekStart: number;
}

let habits: Habits = { hours: null, monthFirst: false, weekStart: 1 };

/** Takes over how the person wants them, for everything that is written from then on. */
export const setHabits = (next: Habits) => {
  habits = next;
  formats.clear();
};

/** The day the week of a day begins on, as the person counts weeks. */
export const firstOfWeek = (day: Day): Day => addDays(day, -((weekday(day) - habits.weekStart + 7) % 7));

export const firstOfMonth = (day: Day): Day => `${day.slice(0, 7)}-01`;

export const addMonths = (day: Day, months: number): Day => {
  const date = toUtc(firstOfMonth(day));
  date.setUTCMonth(date.getUTCMonth() + months);
  return date.toISOString().slice(0, 10);
};

/** The days of the month a day lies in. */
export const monthDays = (day: Day): Day[] => {
  const first = firstOfMonth(day);
  return dayRange(first, daysBetween(first, addMonths(first, 1)));
};

export const dayRange = (from: Day, count: number): Day[] => Array.from({ length: count }, (_, i) => addDays(from, i));

export const dayOf = (time: LocalTime): Day => time.slice(0, 10);

/** "09:30" */
export const clockOf = (time: LocalTime): string => time.slice(11, 16);

export const at = (day: Day, clock: string): LocalTime => `${day}T${clock.padStart(5, '0')}:00`;

/** Moves a local time by minutes, over midnight too. */
export const addMinutes = (time: LocalTime, minutes: number): LocalTime =>
  new Date(new Date(`${time}Z`).getTime() + minutes * 60_000).toISOString().slice(0, 19);

export const minutesBetween = (from: LocalTime, to: LocalTime): number =>
  (new Date(`${to}Z`).getTime() - new Date(`${from}Z`).getTime()) / 60_000;

/** The place a zone is named after: "America/Halifax" → "Halifax". */
export const zoneCity = (zone: string): string => zone.slice(zone.lastIndexOf('/') + 1).replaceAll('_', ' ');

/** The locale whose order of day and month the school writes. */
export const localeOf = (language: string): string =>
  language === 'fr' ? 'fr-CA' : habits.monthFirst ? 'en-US' : 'en-GB';

const formats = new Map<string, Intl.DateTimeFormat>();

/** A moment on the reader's own clock: 28 Nov 2026, 15:41. */
export const formatMoment = (instant: string, language: string): string =>
  new Intl.DateTimeFormat(localeOf(language), { dateStyle: 'medium', timeStyle: 'short' }).format(new Date(instant));

export const formatDay = (day: Day, language: string, options: Intl.DateTimeFormatOptions): string => {
  const key = language + JSON.stringify(options);
  let format = formats.get(key);
  if (!format) {
    format = new Intl.DateTimeFormat(localeOf(language), { ...options, timeZone: 'UTC' });
    formats.set(key, format);
  }
  return format.format(toUtc(day));
};

/** "Mon 23" */
export const dayHead = (day: Day, language: string): string =>
  `${formatDay(day, language, { weekday: 'short' }).replace('.', '')} ${Number(day.slice(8))}`;

/** "Mon 23 Nov" */
export const shortDay = (day: Day, language: string): string =>
  formatDay(day, language, { weekday: 'short', day: 'numeric', month: 'short' }).replace(',', '');

/** "Monday 23 November" */
export const longDay = (day: Day, language: string): string =>
  formatDay(day, language, { weekday: 'long', day: 'numeric', month: 'long' }).replace(',', '');

/** "23 – 27 November 2026", as short as the two days allow. */
export const dayRangeText = (from: Day, last: Day, language: string): string => {
  const full = (day: Day, year: boolean) =>
    formatDay(day, language, { day: 'numeric', month: 'long', ...(year ? { year: 'numeric' } : {}) });
  if (from === last) return full(from, true);
  const head =
    from.slice(0, 7) === last.slice(0, 7) && localeOf(language) !== 'en-US'
      ? String(Number(from.slice(8)))
      : full(from, from.slice(0, 4) !== last.slice(0, 4));
  return `${head} – ${full(last, true)}`;
};

/** A clock time as the language writes it: "9:30", "9 h 30". */
export const clockText = (time: LocalTime, language: string): string => {
  const [hour = '', minute] = clockOf(time).split(':');
  const short = habits.hours === 12;
  const said = short ? Number(hour) % 12 || 12 : Number(hour);
  const half = short ? (Number(hour) < 12 ? ' am' : ' pm') : '';
  return (language === 'fr' ? `${said} h ${minute}` : `${said}:${minute}`) + half;
};

/** A time of day as people type it: "9", "9:30", "930", "9h30", "9.30 pm"; null when it is none. */
export const parseClock = (text: string): string | null => {
  const match = /^(\d{1,2})(?:\s*[:.h]\s*(\d{2})?|(\d{2}))?\s*([ap])?\.?m?\.?$/.exec(text.trim().toLowerCase());
  if (!match) return null;
  let hour = Number(match[1]);
  const minute = Number(match[2] ?? match[3] ?? 0);
  if (match[4]) {
    if (hour < 1 || hour > 12) return null;
    hour = (hour % 12) + (match[4] === 'p' ? 12 : 0);
  }
  return hour < 24 && minute < 60 ? `${String(hour).padStart(2, '0')}:${String(minute).padStart(2, '0')}` : null;
};

// 30 February becomes a day of March when it is read.
const isRealDay = (day: Day): boolean =>
  !Number.isNaN(toUtc(day).getTime()) && toUtc(day).toISOString().startsWith(day);

/**
 * The day a person means by "12 May", "today", "next week", "week 6" or "2026-05-12"; null when it cannot be told.
 * Without a year the date nearest to `near` is meant.
 */
export const parseDay = (text: string, near: Day, today: Day, weekOf: (week: number) => Day | null): Day | null => {
  const plain = text
    .trim()
    .toLowerCase()
    .normalize('NFD')
    .replace(/[\u0300-\u036f]/g, '');
  if (/^\d{4}-\d{2}-\d{2}$/.test(plain)) return isRealDay(plain) ? plain : null;
  if (['today', 'now', "aujourd'hui", 'aujourd’hui'].includes(plain)) return today;
  if (['tomorrow', 'demain'].includes(plain)) return addDays(today, 1);
  if (['next week', 'semaine prochaine', 'la semaine prochaine'].includes(plain)) return addDays(monday(today), 7);
  if (['this week', 'cette semaine'].includes(plain)) return monday(today);
  const week = /^(?:week|semaine|w|s)\s*(\d{1,2})$/.exec(plain);
  if (week) return weekOf(Number(week[1]));
  const match = /^(\d{1,2})(?:er)?[\s./-]+([a-z]+|\d{1,2})\.?(?:[\s./-]+(\d{4}))?$/.exec(plain);
  const swapped = /^([a-z]+)\.?\s+(\d{1,2}),?(?:\s+(\d{4}))?$/.exec(plain);
  const [date, month, year] = match
    ? [match[1], match[2], match[3]]
    : swapped
      ? [swapped[2], swapped[1], swapped[3]]
      : [];
  if (!date || !month) return null;
  const number = /^\d+$/.test(month) ? Number(month) : monthNumber(month);
  if (!number || number > 12) return null;
  const make = (y: number) => `${y}-${String(number).padStart(2, '0')}-${date.padStart(2, '0')}`;
  if (year) return isRealDay(make(Number(year))) ? make(Number(year)) : null;
  const base = Number(near.slice(0, 4));
  const candidates = [base - 1, base, base + 1].map(make).filter(isRealDay);
  candidates.sort((a, b) => Math.abs(daysBetween(near, a)) - Math.abs(daysBetween(near, b)));
  return candidates[0] ?? null;
};

const MONTHS = [
  ['january', 'janvier'],
  ['february', 'fevrier'],
  ['march', 'mars'],
  ['april', 'avril'],
  ['may', 'mai'],
  ['june', 'juin'],
  ['july', 'juillet'],
  ['august', 'aout'],
  ['september', 'septembre'],
  ['october', 'octobre'],
  ['november', 'novembre'],
  ['december', 'decembre'],
];

const monthNumber = (word: string): number =>
  word.length < 3 ? 0 : MONTHS.findIndex((names) => names.some((name) => name.startsWith(word))) + 1;

/** How many minutes the clock of one zone is ahead of another's at a day's noon. */
export const minutesAhead = (zone: string, other: string, day: Day): number => {
  const noon = new Date(`${day}T12:00:00Z`);
  const wall = (timeZone: string) => Date.parse(`${wallTime(noon, timeZone)}Z`);
  return Math.round((wall(zone) - wall(other)) / 60_000);
};

const wallTime = (moment: Date, timeZone: string): LocalTime =>
  new Intl.DateTimeFormat('sv-SE', { timeZone, dateStyle: 'short', timeStyle: 'medium' })
    .format(moment)
    .replace(' ', 'T');

/** What the clock of a zone shows now. */
export const clockNow = (zone: string): { day: Day; minute: number; time: LocalTime } => {
  const time = wallTime(new Date(), zone);
  return { day: dayOf(time), minute: Number(time.slice(11, 13)) * 60 + Number(time.slice(14, 16)), time };
};

/** The years as people call it: "2026–2027", or one number when it lies in one. */
export const yearName = ({ first, last }: { first: Day; last: Day }): string =>
  first.slice(0, 4) === last.slice(0, 4) ? first.slice(0, 4) : `${first.slice(0, 4)}–${last.slice(0, 4)}`;
