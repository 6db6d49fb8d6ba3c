import type { SchoolYear, SchoolYearInput } from '../shared/api/client';
import { addDays, addMonths, type Day } from '../shared/dates';
import { WEEKDAYS } from '../shared/rules';

/** A year as it stands on the page: what is typed, and the version it was typed over. */
export type YearDraft = SchoolYearInput;

export const draftOfYear = (year: SchoolYear): YearDraft => {
  const draft: YearDraft & { id?: string } = { ...year };
  delete draft.id;
  return draft;
};

/** The first year of a school that has kept none: August to July. */
export const firstYear = (today: Day): YearDraft => {
  const start = `${Number(today.slice(0, 4)) - (today.slice(5, 7) >= '08' ? 0 : 1)}-08-01`;
  return {
    first: start,
    last: addDays(addMonths(start, 12), -1),
    terms: [],
    closures: [],
    week: WEEKDAYS.slice(0, 5),
    cycleLength: 0,
    cycleRestarts: false,
    pins: [],
    weekLetters: [],
    lettersRestart: false,
    version: null,
  };
};

const YEAR_OF_WEEKS = 364;

/** The year after one: the same settings, the terms a year of whole weeks later. Closures are its own. */
export const nextYear = (year: SchoolYear): YearDraft => {
  const first = addDays(year.last, 1);
  const last = addDays(addMonths(first, 12), -1);
  const within = (day: Day) => (day < first ? first : day > last ? last : day);
  return {
    ...draftOfYear(year),
    first,
    last,
    terms: year.terms.map((term) => ({
      ...term,
      first: within(addDays(term.first, YEAR_OF_WEEKS)),
      last: within(addDays(term.last, YEAR_OF_WEEKS)),
    })),
    closures: [],
    pins: [],
    version: null,
  };
};

/** The months a year touches, each by its first day. */
export const monthsOf = (first: Day, last: Day): Day[] => {
  const months: Day[] = [];
  for (let month = `${first.slice(0, 7)}-01`; month <= last; month = addMonths(month, 1)) months.push(month);
  return months;
};

export interface DaySpan {
  first: Day;
  last: Day;
}

/** The span between two days, whichever comes first, kept within the year. */
export const spanOf = (a: Day, b: Day, year: DaySpan): DaySpan => {
  const within = (day: Day) => (day < year.first ? year.first : day > year.last ? year.last : day);
  const [first, last] = a <= b ? [a, b] : [b, a];
  return { first: within(first), last: within(last) };
};

/** "A, B" as it is typed; fewer than two alternate with nothing. */
export const lettersOf = (text: string): string[] =>
  text
    .split(/[,;/]+/)
    .map((letter) => letter.trim())
    .filter(Boolean);

export interface NamedSpan extends DaySpan {
  name: string;
}
