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

/** How long ago: in minutes or hours, further back as a moment. */
export const agoText = (at: string, language: string): string => {
  const minutes = Math.round((Date.now() - Date.parse(at)) / 60_000);
  const told = new Intl.RelativeTimeFormat(language, { numeric: 'auto' });
  if (minutes < 60) return told.format(-Math.max(0, minutes), 'minute');
  return minutes < 24 * 60 ? told.format(-Math.round(minutes / 60), 'hour') : formatMoment(at, language);
};

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
