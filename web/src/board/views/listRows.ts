import type { Category, Occurrence } from '../../shared/api/client';

export const COLUMNS = ['when', 'title', 'calendar', 'place', 'category', 'tags', 'notes'] as const;
export type Column = (typeof COLUMNS)[number];

export type Flag = 'withPlace' | 'withoutPlace' | 'draft' | 'calledOff' | 'changed' | 'shortNotice';

/** What the list is narrowed to; what is empty narrows nothing. */
export interface Filter {
  text: string;
  calendarId: string;
  categoryId: string;
  tag: string;
  flag: Flag | '';
}

export const NO_FILTER: Filter = { text: '', calendarId: '', categoryId: '', tag: '', flag: '' };

const HAS: Record<Flag, (o: Occurrence) => boolean> = {
  withPlace: (o) => o.place !== '',
  withoutPlace: (o) => o.place === '',
  draft: (o) => o.isDraft,
  calledOff: (o) => o.isCalledOff,
  changed: (o) => o.isChanged,
  shortNotice: (o) => o.isShortNotice,
};

const plain = (text: string): string =>
  text
    .toLowerCase()
    .normalize('NFD')
    .replace(/[\u0300-\u036f]/g, '');

/** The dates a filter lets through; a category brings those that are part of it along. */
export const filtered = (occurrences: Occurrence[], filter: Filter, categories: Category[]): Occurrence[] => {
  const words = plain(filter.text).split(/\s+/).filter(Boolean);
  const wanted = new Set(
    categories.filter((c) => c.id === filter.categoryId || c.parentId === filter.categoryId).map((c) => c.id),
  );
  return occurrences.filter((o) => {
    const text = plain([o.title, o.subtitle, o.place, ...o.tags.map((tag) => `#${tag}`)].join(' '));
    return (
      words.every((word) => text.includes(word)) &&
      (!filter.calendarId || o.calendarId === filter.calendarId || o.alsoIn.includes(filter.calendarId)) &&
      (!filter.categoryId || wanted.has(o.categoryId)) &&
      (!filter.tag || o.tags.includes(filter.tag)) &&
      (!filter.flag || HAS[filter.flag](o))
    );
  });
};

const weight = (o: Occurrence): number =>
  Number(o.isDraft) * 8 + Number(o.isCalledOff) * 4 + Number(o.isChanged) * 2 + Number(o.isShortNotice);

/** In the order of a column; within the same value by time. */
export const sorted = (
  occurrences: Occurrence[],
  column: Column,
  down: boolean,
  calendarOf: (o: Occurrence) => string,
  categoryOf: (o: Occurrence) => string,
): Occurrence[] => {
  const value: Record<Exclude<Column, 'notes'>, (o: Occurrence) => string> = {
    when: () => '',
    title: (o) => o.title,
    calendar: calendarOf,
    place: (o) => o.place,
    category: categoryOf,
    tags: (o) => o.tags.join(' '),
  };
  const byTime = (a: Occurrence, b: Occurrence) =>
    a.start.localeCompare(b.start) || a.title.localeCompare(b.title) || a.eventId.localeCompare(b.eventId);
  const compare = (a: Occurrence, b: Occurrence) =>
    column === 'notes' ? weight(b) - weight(a) : value[column](a).localeCompare(value[column](b));
  const ordered = [...occurrences].sort((a, b) => (column === 'when' ? 0 : compare(a, b)) || byTime(a, b));
  return down ? ordered.reverse() : ordered;
};
