import type { QueryClient } from '@tanstack/react-query';

/** What a person chose for themselves of one kind: how it is known here, kept by the server, and shown. */
export interface Personal<T extends object> {
  known: (queries: QueryClient) => T | undefined;
  /** Keeps all of it, or what was chosen alone. */
  keep: (all: T, chosen: Partial<T>) => Promise<unknown>;
  show: (queries: QueryClient, change: Partial<T>) => unknown;
}

interface Going<T> {
  change: Partial<T>;
  kept: Promise<unknown>;
}

/** What was chosen and is not kept yet, for each client and kind. */
const going = new WeakMap<QueryClient, Map<object, Going<never>>>();

/**
 * Makes a choice: at once here, and kept for every other screen of the person. What is chosen right after something else is kept
 * after it and with it, whatever was asked for before says meanwhile.
 */
export const choose = async <T extends object>(
  queries: QueryClient,
  personal: Personal<T>,
  change: (now: T) => Partial<T>,
): Promise<void> => {
  const known = personal.known(queries);
  if (!known) return;
  const mine = going.get(queries) ?? new Map<object, Going<never>>();
  going.set(queries, mine);
  const before = mine.get(personal) as Going<T> | undefined;
  const all = { ...before?.change, ...change({ ...known, ...before?.change }) };
  const kept = (before?.kept ?? Promise.resolve())
    .catch(() => undefined)
    .then(() => personal.keep({ ...known, ...all }, all));
  const own = { change: all, kept } as Going<never>;
  mine.set(personal, own);
  await Promise.all([
    personal.show(queries, all),
    kept.finally(() => {
      if (mine.get(personal) === own) mine.delete(personal);
    }),
  ]);
  // An answer that came before it was kept knows nothing of it; of what was chosen since the next one tells.
  if (!mine.has(personal)) await personal.show(queries, all);
};
