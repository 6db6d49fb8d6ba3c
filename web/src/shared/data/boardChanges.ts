import type { Board, Occurrence } from '../api/client';
import type { Day } from '../dates';

/** A change of events that others hear of: which of those they know it was about, and on which days these are or were. */
export interface ToldChange {
  /** By this what the events are now is asked for. */
  change: string;
  ids: string[];
  first: Day;
  /** Null for no end. */
  last: Day | null;
}

/** The changes of which a board shows something, or would. */
export const shownBy = (board: Board, changes: ToldChange[]): ToldChange[] =>
  changes.filter(
    ({ ids, first, last }) =>
      (first < board.to && (last === null || last >= board.from)) ||
      board.occurrences.some((o) => ids.includes(o.eventId)),
  );

const inOrder = (a: Occurrence, b: Occurrence) =>
  a.start < b.start ? -1 : a.start > b.start ? 1 : a.eventId < b.eventId ? -1 : a.eventId > b.eventId ? 1 : 0;

/** A board with what changed events are now; all others stay the same objects, so that they are not drawn anew. */
export const withChanged = (board: Board, changes: ToldChange[], now: Occurrence[]): Board => {
  const ids = new Set(changes.flatMap((c) => c.ids));
  return { ...board, occurrences: [...board.occurrences.filter((o) => !ids.has(o.eventId)), ...now].sort(inOrder) };
};
