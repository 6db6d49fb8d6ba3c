import type { EventData, Occurrence } from './api/client';
import { dayOf, minutesBetween } from './dates';

/** Whether it stands above the clock: whole days, or a day and longer. */
export const isLong = (o: Occurrence): boolean => o.allDay || minutesBetween(o.start, o.end) >= 1440;

export const isBar = (o: Occurrence): boolean => o.firstDay !== o.lastDay;

/** What tells the entries of a board apart: a proposed one stands beside the one it would change. */
export const occurrenceKey = (o: Occurrence): string =>
  isOnlyProposed(o) ? `${o.eventId} ${o.date} ${o.proposalId}` : `${o.eventId} ${o.date}`;

/** Whether it is not so yet: nobody but those who decide and who proposed sees it. */
export const isOnlyProposed = (o: Occurrence): boolean => o.proposed === 'new' || o.proposed === 'change';

/** A date of an event, as a board would show it to who reads everything, whether one shows it or not. */
export const dateOf = ({ id, calendarId, title, place, timing, rule, facts }: EventData, date: string): Occurrence => ({
  eventId: id,
  calendarId,
  date,
  title,
  place,
  allDay: timing.kind === 'allDay',
  start: timing.start,
  end: timing.end,
  firstDay: dayOf(timing.start),
  lastDay: dayOf(timing.end),
  isSeries: rule !== null,
  isChanged: false,
  isCalledOff: false,
  subtitle: facts.subtitle ?? '',
  categoryId: facts.categoryId ?? null,
  tags: facts.tags ?? [],
  mark: facts.mark ?? null,
  isDraft: facts.isDraft,
  isShortNotice: false,
  alsoIn: facts.alsoIn ?? [],
  detail: 'everything',
});
