import type { QueryClient } from '@tanstack/react-query';
import { api, changeOf, type Board } from '../api/client';
import { shownBy, withChanged, type ToldChange } from './boardChanges';

/** More are looked at by looking anew. */
const MOST_CHANGES = 20;

const into = async (queries: QueryClient, changes: ToldChange[]): Promise<void> => {
  for (const query of queries.getQueryCache().findAll({ queryKey: ['board'] })) {
    const board = query.state.data as Board | undefined;
    const anew = () => queries.invalidateQueries({ queryKey: query.queryKey, exact: true });
    // What is being asked for may have been answered before the change.
    if (!board || query.state.fetchStatus !== 'idle') {
      await anew();
      continue;
    }
    const shown = shownBy(board, changes);
    if (shown.length === 0) continue;
    if (!query.isActive() || shown.length > MOST_CHANGES) {
      await anew();
      continue;
    }
    try {
      const now = await api.boardChanged(
        board.from,
        board.to,
        shown.map((c) => c.change),
      );
      queries.setQueryData<Board>(query.queryKey, (old) => old && withChanged(old, shown, now));
    } catch {
      await anew();
    }
  }
};

interface Coming {
  waiting: ToldChange[];
  bringing: Promise<void> | null;
}
const coming = new WeakMap<QueryClient, Coming>();

/** Brings what changed into the boards that show it; one after the other, as the answers are about what is now. */
export const bringIntoBoards = async (queries: QueryClient, changes: ToldChange[]): Promise<void> => {
  if (changes.length === 0) return;
  const of = coming.get(queries) ?? { waiting: [], bringing: null };
  coming.set(queries, of);
  of.waiting.push(...changes);
  of.bringing ??= (async () => {
    try {
      while (of.waiting.length > 0) {
        const now = of.waiting;
        of.waiting = [];
        await into(queries, now);
      }
    } finally {
      of.bringing = null;
    }
  })();
  await of.bringing;
};

/** What this screen did itself, and so shows without being told. */
const mine = { changes: new Set<string>(), open: 0, lastOther: 0, done: [] as (() => void)[] };
const MOST_KEPT = 100;
const OTHER_MS = 3_000;

/** Does something of this screen's own; what is told of it meanwhile waits until it is known by its answer. */
export const ofOwn = async <T>(run: Promise<T>): Promise<T> => {
  mine.open++;
  try {
    const answer = await run;
    const own = changeOf(answer);
    if (own) mine.changes = new Set([...mine.changes, own.change].slice(-MOST_KEPT));
    else mine.lastOther = Date.now();
    return answer;
  } finally {
    mine.open--;
    if (mine.open === 0) mine.done.splice(0).forEach((go) => go());
  }
};

/** Waits until nothing is being done that one may be told of as one's own. */
export const ownDone = (): Promise<void> =>
  mine.open === 0 ? Promise.resolve() : new Promise((go) => mine.done.push(go));

/** Of changes that are told, those this screen did not make itself. */
export const notOwn = (changes: ToldChange[]): ToldChange[] => changes.filter((c) => !mine.changes.has(c.change));

/** Whether this screen did something a moment ago of which it is not known what changed by it: all was looked at anew then. */
export const didOther = (): boolean => Date.now() - mine.lastOther <= OTHER_MS;

/** Shows in the boards what was done: only the events it was about, where it was about nothing else. */
export const showInBoards = (queries: QueryClient, answer: unknown): Promise<void> => {
  const own = changeOf(answer);
  // On which days they are or were is not told: every board asks.
  return own
    ? bringIntoBoards(queries, [{ ...own, first: '', last: null }])
    : queries.invalidateQueries({ queryKey: ['board'] });
};
