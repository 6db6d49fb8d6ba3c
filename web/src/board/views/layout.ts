import { isBar, isLong, occurrenceKey } from '../../shared/occurrences';
import type { Occurrence } from '../../shared/api/client';
import { addDays, at, daysBetween, minutesBetween, type Day } from '../../shared/dates';

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

/**
 * Lays events over several days into as few lines as they need; earlier and longer ones come first.
 * @param single whether events of one day are laid too
 */
export const packBars = (occurrences: Occurrence[], from: Day, days: number, single = false): Bar[] => {
  const bars: Bar[] = occurrences
    .filter((o) => single || isBar(o))
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

/** A part of an event on one day's clock, in minutes since midnight, beside those it overlaps. */
export interface HoursPart {
  occurrence: Occurrence;
  from: number;
  to: number;
  /** Which of the columns it takes, and how many there are beside each other. */
  column: number;
  columns: number;
}

/** Lays a day's timed events beside each other where they overlap; each group in as few columns as it needs. */
export const packHours = (occurrences: Occurrence[], day: Day): HoursPart[] => {
  const midnight = at(day, '00:00');
  const parts: HoursPart[] = occurrences
    .filter((o) => !isLong(o) && o.start < at(addDays(day, 1), '00:00') && (o.end > midnight || o.start >= midnight))
    .map((occurrence) => ({
      occurrence,
      from: Math.max(0, minutesBetween(midnight, occurrence.start)),
      to: Math.min(1440, minutesBetween(midnight, occurrence.end)),
      column: 0,
      columns: 1,
    }))
    .sort(
      (a, b) =>
        a.from - b.from || b.to - a.to || occurrenceKey(a.occurrence).localeCompare(occurrenceKey(b.occurrence)),
    );
  let group: HoursPart[] = [];
  let groupEnds = -1;
  const close = () => {
    const columns = group.reduce((most, part) => Math.max(most, part.column + 1), 1);
    for (const part of group) part.columns = columns;
    group = [];
  };
  for (const part of parts) {
    // What lasts no time still takes room.
    const ends = Math.max(part.to, part.from + 15);
    if (part.from >= groupEnds) {
      close();
      groupEnds = -1;
    }
    const taken = new Set(
      group.filter((other) => Math.max(other.to, other.from + 15) > part.from).map((o) => o.column),
    );
    while (taken.has(part.column)) part.column++;
    group.push(part);
    groupEnds = Math.max(groupEnds, ends);
  }
  close();
  return parts;
};
