import type { Occurrence } from './api/client';
import { minutesBetween } from './dates';

/** Whether it stands above the clock: whole days, or a day and longer. */
export const isLong = (o: Occurrence): boolean => o.allDay || minutesBetween(o.start, o.end) >= 1440;

export const isBar = (o: Occurrence): boolean => o.firstDay !== o.lastDay;

/** What tells the entries of a board apart: a proposed one stands beside the one it would change. */
export const occurrenceKey = (o: Occurrence): string =>
  isOnlyProposed(o) ? `${o.eventId} ${o.date} ${o.proposalId}` : `${o.eventId} ${o.date}`;

/** Whether it is not so yet: nobody but those who decide and who proposed sees it. */
export const isOnlyProposed = (o: Occurrence): boolean => o.proposed === 'new' || o.proposed === 'change';
