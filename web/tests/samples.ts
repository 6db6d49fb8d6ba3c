import type { Names } from '../src/event/differences';
import type { OutletStart } from '../src/outlet/model';
import type { Calendar, EventData, Occurrence } from '../src/shared/api/client';
import { factsOf } from '../src/event/draft/draft';

/** An event with everything said, for tests to change a part of. */
export const eventOf = (change: Partial<EventData> = {}): EventData => ({
  id: 'e',
  calendarId: 'c',
  title: 'Knots',
  place: 'Loft 2',
  description: 'Bring a rope',
  timing: { kind: 'zoned', start: '2026-09-01T22:30:00', end: '2026-09-02T00:15:00', zone: 'America/Halifax' },
  rule: null,
  follows: null,
  facts: factsOf(null),
  timedAt: '2026-08-01T00:00:00Z',
  skips: [],
  extras: [],
  changes: [],
  version: 3,
  createdAt: '2026-08-01T00:00:00Z',
  changedAt: '2026-08-01T00:00:00Z',
  inBin: false,
  ...change,
});

/** A date of an event on the board. */
export const occurrenceOf = (change: Partial<Occurrence> = {}): Occurrence => ({
  eventId: 'e',
  calendarId: 'c',
  date: '2026-09-01T09:00:00',
  title: 'Knots',
  detail: 'everything',
  place: '',
  allDay: false,
  start: '2026-09-01T09:00:00',
  end: '2026-09-01T10:00:00',
  firstDay: '2026-09-01',
  lastDay: '2026-09-01',
  isSeries: false,
  isChanged: false,
  isCalledOff: false,
  subtitle: '',
  categoryId: null,
  tags: [],
  mark: null,
  isDraft: false,
  isShortNotice: false,
  alsoIn: [],
  ...change,
});

/** A calendar its person keeps. */
export const calendarOf = (change: Partial<Calendar> = {}): Calendar => ({
  id: 'c',
  title: 'Rigging 2',
  description: '',
  group: '',
  zone: 'America/Halifax',
  mark: 1,
  reach: { members: 'everything', linkHolders: 'nothing', everyone: 'nothing' },
  version: 1,
  inBin: false,
  role: 'keeper',
  mayOffer: true,
  isOutOfSearch: false,
  isFollowed: false,
  ...change,
});

/** A page of visitors with two calendars and nothing on. */
export const USUAL_OUTLET: OutletStart = {
  events: '/events.json?',
  title: 'Families',
  school: 'Lanternfell School of Boatbuilding and Navigation',
  language: 'en',
  languageQuery: '',
  zone: 'America/Halifax',
  today: '2026-11-23',
  firstView: 'month',
  page: 'https://lanternfell.example/p/families',
  feed: 'https://lanternfell.example/p/families/feed.ics',
  webcal: 'webcal://lanternfell.example/p/families/feed.ics',
  calendars: [
    { title: 'Rigging 2', mark: 1, name: 'aa00bb11' },
    { title: 'Navigation 2B', mark: 2, name: 'cc22dd33' },
  ],
  categories: [],
  look: {
    views: ['month', 'list'],
    title: false,
    navigation: true,
    key: true,
    zone: true,
    subscribe: true,
    print: true,
    weekStart: 1,
    wholeMonth: false,
    readersZone: false,
    hours: 'language',
    count: 6,
    latestFirst: false,
    byDay: true,
    eachDay: false,
    descriptions: false,
    empty: '',
  },
  window: { from: '2026-11-23', to: '2027-01-04', events: [] },
  beyond: [],
  search: null,
  byMail: null,
};

/** Texts by their keys, and things by names that are given. */
export const namesOf = (names: Record<string, string> = {}): Names => ({
  t: ((key: string) => key) as Names['t'],
  language: 'en',
  nameOf: (id) => names[id],
});
