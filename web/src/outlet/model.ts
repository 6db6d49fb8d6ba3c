import en from './texts/en.json';
import fr from './texts/fr.json';

export interface OutletEvent {
  id: string;
  calendar: number;
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
}

/** What the server put into the page. */
export interface OutletStart {
  /** Where events of other days are asked for. */
  events: string;
  title: string;
  school: string;
  language: string;
  zone: string;
  today: string;
  firstView: 'month' | 'list';
  page: string;
  feed: string;
  webcal: string;
  calendars: { title: string; mark: number }[];
  window: OutletWindow;
}

/** The mark an event is drawn with. */
export const markOf = (event: OutletEvent, start: OutletStart): number =>
  event.mark ?? start.calendars[event.calendar]?.mark ?? 1;

export type Texts = typeof en;

export const textsOf = (language: string): Texts => (language === 'fr' ? fr : en);

/** Dates in words, from the tables the server writes with too. */
export const wordsFor = (texts: Texts) => {
  const fill = (pattern: string, values: Record<string, string | number>) =>
    pattern.replace(/{{(\w+)}}/g, (_, name: string) => String(values[name] ?? ''));
  const weekdayOf = (day: string) => (new Date(`${day}T00:00:00Z`).getUTCDay() + 6) % 7;
  const words = {
    fill,
    day: (day: string) =>
      fill(texts.dayPattern, {
        weekday: texts.weekdays[weekdayOf(day)] ?? '',
        day: Number(day.slice(8)),
        month: texts.months[Number(day.slice(5, 7)) - 1] ?? '',
        year: day.slice(0, 4),
      }),
    /** A day of a list: the year is said only when it is not this one. */
    heading: (day: string, today: string) => {
      const text = words.day(day);
      return day.slice(0, 4) === today.slice(0, 4) ? text.replace(` ${day.slice(0, 4)}`, '') : text;
    },
    monthName: (day: string) => {
      const name = texts.months[Number(day.slice(5, 7)) - 1] ?? '';
      return `${name.charAt(0).toUpperCase()}${name.slice(1)} ${day.slice(0, 4)}`;
    },
    weekdayShort: (index: number) => (texts.weekdays[index] ?? '').slice(0, 3),
    time: (time: string) => fill(texts.timePattern, { hour: Number(time.slice(11, 13)), minute: time.slice(14, 16) }),
    /** When an event is, in full. */
    span: (e: OutletEvent): string => {
      const oneDay = e.firstDay === e.lastDay;
      if (e.allDay)
        return oneDay
          ? `${words.day(e.firstDay)}, ${texts.allDay}`
          : `${words.day(e.firstDay)} – ${words.day(e.lastDay)}`;
      return oneDay
        ? `${words.day(e.firstDay)}, ${words.time(e.start)}–${words.time(e.end)}`
        : `${words.day(e.firstDay)}, ${words.time(e.start)} – ${words.day(e.end.slice(0, 10))}, ${words.time(e.end)}`;
    },
  };
  return words;
};

export type Words = ReturnType<typeof wordsFor>;
