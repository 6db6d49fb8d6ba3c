import { createContext } from 'react';
import { addDays, weekday } from '../shared/dates';
import type en from './texts/en.json';

export type View = 'month' | 'list' | 'week' | 'day' | 'upcoming' | 'cards' | 'small';

export interface OutletEvent {
  id: string;
  calendar: number;
  /** The other calendars it stands in. */
  also?: number[];
  category?: string;
  title: string;
  place?: string;
  /** Clean HTML. */
  description?: string;
  allDay: boolean;
  start: string;
  end: string;
  firstDay: string;
  lastDay: string;
  calledOff?: boolean;
  /** Only that its time is taken is told. */
  busy?: boolean;
  news?: 'new' | 'moved' | 'calledOff';
  /** When it begins and ends on every clock; only where times are told in the reader's zone. */
  at?: [string, string];
  subtitle?: string;
  /** A mark of its own; else its calendar's. */
  mark?: number;
  links?: { label: string; address: string }[];
  files?: { label: string; address: string }[];
  picture?: { address: string; alt: string };
}

export interface OutletWindow {
  from: string;
  to: string;
  events: OutletEvent[];
  /** Where nothing is on: the days something is on next, and was last. */
  next?: string;
  last?: string;
}

export interface Look {
  views: View[];
  title: boolean;
  navigation: boolean;
  key: boolean;
  zone: boolean;
  subscribe: boolean;
  print: boolean;
  /** 1 for Monday to 7 for Sunday. */
  weekStart: number;
  /** A month of the calendar, instead of this week and those that come. */
  wholeMonth: boolean;
  readersZone: boolean;
  hours: 'language' | 'twelve' | 'twentyFour';
  count: number;
  latestFirst: boolean;
  byDay: boolean;
  eachDay: boolean;
  descriptions: boolean;
  empty: string;
}

/** What the server put into the page. */
export interface OutletStart {
  /** Where events of other days are asked for. */
  events: string;
  title: string;
  school: string;
  language: string;
  /** What addresses say of the language; empty where it is the publication's own. */
  languageQuery: string;
  zone: string;
  today: string;
  firstView: View;
  page: string;
  feed: string;
  webcal: string;
  calendars: { title: string; mark: number; name: string }[];
  categories: string[];
  look: Look;
  window: OutletWindow;
  /** What is on next beyond the window, until a list has its number. */
  beyond: OutletEvent[];
  /** Where all that goes out is searched; without it only what lies near. */
  search: string | null;
  /** Where a visitor asks to be written to; null where the school does not. */
  byMail: string | null;
}

/** The mark an event is drawn with. */
export const markOf = (event: OutletEvent, start: OutletStart): number =>
  event.mark ?? start.calendars[event.calendar]?.mark ?? 1;

export type Texts = typeof en;

// A language is a file of its own, beside the script: nobody loads those they do not read.
const files = import.meta.glob<Texts>('./texts/*.json', { import: 'default' });

export const textsOf = (language: string): Promise<Texts> =>
  (files[`./texts/${language}.json`] ?? files['./texts/en.json'] ?? (() => Promise.reject(new Error(language))))();

/** Dates in words, from the tables the server writes with too. */
export const wordsFor = (texts: Texts, hours: Look['hours'] = 'language') => {
  const fill = (pattern: string, values: Record<string, string | number>) =>
    pattern.replace(/{{(\w+)}}/g, (_, name: string) => String(values[name] ?? ''));
  const dated = (pattern: string, day: string) =>
    fill(pattern, {
      weekday: texts.weekdays[weekday(day) - 1] ?? '',
      day: Number(day.slice(8)),
      month: texts.months[Number(day.slice(5, 7)) - 1] ?? '',
      year: day.slice(0, 4),
    });
  const ofYear = (value: string, day: string) => fill(texts.ofYear, { value, year: day.slice(0, 4) });
  const words = {
    fill,
    day: (day: string) => dated(texts.dayPattern, day),
    /** A day of a list: the year is said only when it is not this one. */
    heading: (day: string, today: string) =>
      dated(day.slice(0, 4) === today.slice(0, 4) ? texts.headingPattern : texts.dayPattern, day),
    monthName: (day: string) => {
      const name = texts.months[Number(day.slice(5, 7)) - 1] ?? '';
      return ofYear(`${name.charAt(0).toUpperCase()}${name.slice(1)}`, day);
    },
    /** A stretch of days: what both have in common is said once. */
    days: (first: string, last: string) => {
      const short = (day: string) => dated(texts.dayOfMonth, day);
      return first.slice(0, 4) === last.slice(0, 4)
        ? ofYear(`${short(first)} – ${short(last)}`, last)
        : `${ofYear(short(first), first)} – ${ofYear(short(last), last)}`;
    },
    monthShort: (day: string) => texts.monthsShort[Number(day.slice(5, 7)) - 1] ?? '',
    weekdayShort: (day: string) => texts.weekdaysShort[weekday(day) - 1] ?? '',
    time: (time: string) => {
      const hour = Number(time.slice(11, 13));
      const isTwelve = hours === 'twelve';
      const pattern = isTwelve
        ? '{{hour}}:{{minute}} {{half}}'
        : hours === 'twentyFour'
          ? '{{hour}}:{{minute}}'
          : texts.timePattern;
      return fill(pattern, {
        hour: isTwelve ? ((hour + 11) % 12) + 1 : hour,
        minute: time.slice(14, 16),
        half: hour < 12 ? texts.am : texts.pm,
      });
    },
    /** When an event is, in full. */
    span: (e: OutletEvent): string => {
      const oneDay = e.firstDay === e.lastDay;
      if (e.allDay)
        return oneDay
          ? `${words.day(e.firstDay)}, ${texts.allDay}`
          : `${words.day(e.firstDay)} – ${words.day(e.lastDay)}`;
      if (!oneDay)
        return `${words.day(e.firstDay)}, ${words.time(e.start)} – ${words.day(e.end.slice(0, 10))}, ${words.time(e.end)}`;
      const times = e.start === e.end ? words.time(e.start) : `${words.time(e.start)}–${words.time(e.end)}`;
      return `${words.day(e.firstDay)}, ${times}`;
    },
  };
  return words;
};

export type Words = ReturnType<typeof wordsFor>;

/** What every part of an outlet is drawn from. */
export interface Drawn {
  start: OutletStart;
  texts: Texts;
  words: Words;
}

export const OutletContext = createContext<Drawn>(null as unknown as Drawn);

/** A moment on a zone's clock; without one, on the reader's. */
export const clockIn = (moment: Date, zone?: string): string => {
  const parts = new Intl.DateTimeFormat('en-GB', {
    timeZone: zone,
    hourCycle: 'h23',
    year: 'numeric',
    month: '2-digit',
    day: '2-digit',
    hour: '2-digit',
    minute: '2-digit',
    second: '2-digit',
  }).formatToParts(moment);
  const part = (type: string) => parts.find((p) => p.type === type)?.value ?? '';
  return `${part('year')}-${part('month')}-${part('day')}T${part('hour')}:${part('minute')}:${part('second')}`;
};

/** An event on the reader's own clock, where that is wanted. All-day ones are the same everywhere. */
export const onReadersClock = (event: OutletEvent, zone?: string): OutletEvent => {
  if (!event.at) return event;
  const [start, end] = [clockIn(new Date(event.at[0]), zone), clockIn(new Date(event.at[1]), zone)];
  const firstDay = start.slice(0, 10);
  // An end at midnight does not touch the day it opens.
  const lastDay = end.endsWith('T00:00:00') && end > start ? addDays(end.slice(0, 10), -1) : end.slice(0, 10);
  return { ...event, start, end, firstDay, lastDay: lastDay < firstDay ? firstDay : lastDay };
};

/** Whether days begin or end within an event. */
export const isOn = (event: OutletEvent, day: string): boolean => event.firstDay <= day && day <= event.lastDay;

/** What a visitor has narrowed a page to; it stands in the address. */
export interface Filters {
  /** The calendars that are switched off. */
  off: number[];
  category: string;
  text: string;
}

/** What a visitor chose, as addresses of the page and of feeds have it: one form for one choice. */
export const choiceQuery = (filters: Filters, start: OutletStart): string => {
  const query = new URLSearchParams();
  if (filters.category) query.set('category', filters.category);
  const off = filters.off.map((i) => start.calendars[i]?.name ?? '').sort();
  if (off.length > 0) query.set('off', off.join(','));
  if (filters.text.trim()) query.set('q', filters.text.trim());
  const text = query.toString();
  return text && `?${text.replaceAll('%2C', ',')}`;
};

const plain = (text: string): string =>
  text
    .normalize('NFD')
    .replace(/[\u0300-\u036f]/g, '')
    .toLowerCase();

/** Whether an event is among what the visitor wants: of its calendars one is on, and every word is found. */
export const passes = (event: OutletEvent, filters: Filters): boolean => {
  if ([event.calendar, ...(event.also ?? [])].every((c) => filters.off.includes(c))) return false;
  if (filters.category && event.category !== filters.category) return false;
  const words = plain(filters.text).split(/\s+/).filter(Boolean);
  if (words.length === 0) return true;
  const text = plain(
    [event.title, event.subtitle, event.place, event.category, event.description?.replace(/<[^>]*>/g, ' ')].join(' '),
  );
  return words.every((w) => text.includes(w));
};

/** Events under their days. One over several days stands on its first that is shown, or on each of them. */
export const byDay = (
  events: OutletEvent[],
  from: string,
  to: string,
  { eachDay, latestFirst }: { eachDay: boolean; latestFirst: boolean },
): [string, OutletEvent[]][] => {
  const days = new Map<string, OutletEvent[]>();
  const put = (day: string, e: OutletEvent) => days.set(day, [...(days.get(day) ?? []), e]);
  for (const e of events) {
    const first = e.firstDay < from ? from : e.firstDay;
    put(first, e);
    if (eachDay) for (let d = addDays(first, 1); d <= e.lastDay && d < to; d = addDays(d, 1)) put(d, e);
  }
  const sorted = [...days].sort(([a], [b]) => a.localeCompare(b));
  return latestFirst ? sorted.reverse().map(([d, own]) => [d, [...own].reverse()]) : sorted;
};

/** The day the week of a day begins with. */
export const weekOf = (day: string, weekStart: number): string => addDays(day, -((weekday(day) - weekStart + 7) % 7));
