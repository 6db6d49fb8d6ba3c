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
