import type { EventData, Occurrence } from '../shared/api/client';
import { dayOf } from '../shared/dates';

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
