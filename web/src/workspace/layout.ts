import type { Occurrence } from '../shared/api/client';
import { daysBetween, type Day } from '../shared/dates';

/** An event over several days, cut to the days shown. */
export interface Bar {
  occurrence: Occurrence;
  /** Index of the first and the last column it covers. */
  first: number;
  last: number;
  /** The line it lies in, from 0. */
  line: number;
  /** Whether it goes on before or after the days shown. */
  before: boolean;
  after: boolean;
}

export const isBar = (o: Occurrence): boolean => o.firstDay !== o.lastDay;

/** Lays events over several days into as few lines as they need; earlier and longer ones come first. */
export const packBars = (occurrences: Occurrence[], from: Day, days: number): Bar[] => {
  const bars: Bar[] = occurrences
    .filter(isBar)
    .map((occurrence) => ({
      occurrence,
      first: daysBetween(from, occurrence.firstDay),
      last: daysBetween(from, occurrence.lastDay),
    }))
    .filter((bar) => bar.last >= 0 && bar.first < days)
    .map((bar) => ({
      ...bar,
      first: Math.max(0, bar.first),
      last: Math.min(days - 1, bar.last),
      before: bar.first < 0,
      after: bar.last >= days,
      line: 0,
    }))
    .sort((a, b) => a.first - b.first || b.last - a.last || a.occurrence.eventId.localeCompare(b.occurrence.eventId));
  const lineEnds: number[] = [];
  for (const bar of bars) {
    const free = lineEnds.findIndex((end) => end < bar.first);
    bar.line = free < 0 ? lineEnds.length : free;
    lineEnds[bar.line] = bar.last;
  }
  return bars;
};

/** How many lines the bars take on one day, so that its other entries stand right below them. */
export const linesOn = (bars: Bar[], column: number): number =>
  bars.reduce((most, bar) => (bar.first <= column && column <= bar.last ? Math.max(most, bar.line + 1) : most), 0);

export const onDay = (occurrences: Occurrence[], day: Day): Occurrence[] =>
  occurrences
    .filter((o) => !isBar(o) && o.firstDay === day)
    .sort((a, b) => Number(b.allDay) - Number(a.allDay) || a.start.localeCompare(b.start));

export const occurrenceKey = (o: Occurrence): string => `${o.eventId} ${o.date}`;
