import type { Choices, Look, Publication, PublicationInput } from '../shared/api/client';

const NO_CHOICES: Choices = {
  calendars: [],
  categoryIds: [],
  tags: [],
  text: '',
  kinds: 'all',
  hidesCalledOff: false,
  daysBack: null,
  daysAhead: null,
  from: null,
  until: null,
  titlePattern: '{title}',
  leftOut: [],
};

const USUAL_LOOK: Look = {
  views: ['month', 'list'],
  showsTitle: false,
  showsNavigation: true,
  showsKey: true,
  showsZone: true,
  showsSubscribe: true,
  showsPrint: false,
  weekStart: 1,
  isWholeMonth: false,
  isReadersZone: false,
  hours: 'language',
  count: 6,
  isLatestFirst: false,
  groupsByDay: true,
  isOnEachDay: false,
  showsDescriptions: false,
  emptyText: '',
  newsDays: 0,
  sites: [],
  theme: { preset: 'paper', corner: 3, hasBorder: false },
  picture: null,
};

/** What stands in the studio's fields. */
export type Draft = Omit<PublicationInput, 'version' | 'key' | 'calendarIds' | 'choices' | 'look' | 'isOut'> & {
  calendarIds: string[];
  choices: Choices;
  look: Look;
};

export const draftOf = (publication: Publication | null, language: string): Draft => ({
  title: publication?.title ?? '',
  introduction: publication?.introduction ?? '',
  calendarIds: publication?.calendarIds ?? [],
  firstView: publication?.firstView ?? 'month',
  language: publication?.language ?? language,
  audience: publication?.audience ?? 'everyone',
  choices: publication?.choices ?? NO_CHOICES,
  look: publication?.look ?? USUAL_LOOK,
});

const same = (a: unknown, b: unknown): boolean => JSON.stringify(a) === JSON.stringify(b);

const isParts = (x: unknown): x is Record<string, unknown> => typeof x === 'object' && x !== null && !Array.isArray(x);

const isNames = (x: unknown): x is string[] => Array.isArray(x) && x.every((one) => typeof one === 'string');

/**
 * What two people made of one thing, each from what was before: what only one of them changed is as they have it, part by part
 * and name by name; of what both changed otherwise, mine.
 */
export const merged = <T>(before: T, mine: T, theirs: T): T => {
  if (same(mine, before)) return theirs;
  if (same(theirs, before)) return mine;
  if (isParts(before) && isParts(mine) && isParts(theirs)) {
    const names = new Set([...Object.keys(theirs), ...Object.keys(mine)]);
    return Object.fromEntries([...names].map((name) => [name, merged(before[name], mine[name], theirs[name])])) as T;
  }
  if (isNames(before) && isNames(mine) && isNames(theirs))
    return [
      ...theirs.filter((name) => mine.includes(name) || !before.includes(name)),
      ...mine.filter((name) => !theirs.includes(name) && !before.includes(name)),
    ] as T;
  return mine;
};
