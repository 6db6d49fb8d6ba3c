import { useQueryClient, type QueryClient } from '@tanstack/react-query';
import { useEffect, useState } from 'react';
import { api, type Board } from '../api/client';
import { shownBy, withChanged, type ToldChange } from './boardChanges';

/** What this screen did itself it has shown already. */
let lastOwn = 0;
export const didItself = () => {
  lastOwn = Date.now();
};

const OWN_MS = 3_000;
const AGAIN_MS = 3_000;
/** Lists that are on the screen follow a little later, and not on all screens at once. */
const LISTS_MS = [2_000, 8_000] as const;
const LISTS = [
  'bin',
  'proof',
  'publications',
  'who-sees',
  'search',
  'board-as',
  'shared-places',
  'sources',
  'source-readings',
];
/** What is counted beside the board follows at leisure; where it is what the screen is about it is one of the lists. */
const COUNTS_MS = [30_000, 90_000] as const;
const COUNTS = ['year', 'checks', 'proposals', 'opening-requests'];
const isBoard = () => location.pathname.startsWith('/plan');
/** More are looked at by looking anew. */
const MOST_CHANGES = 20;

interface Told {
  isOwn: boolean;
  events: ToldChange[] | null;
}

const between = ([least, most]: readonly [number, number]): number => least + Math.random() * (most - least);

/** Brings what changed into the boards that show it; one after the other, as the answers are about what is now. */
const bringIn = async (queries: QueryClient, changes: ToldChange[]): Promise<void> => {
  for (const query of queries.getQueryCache().findAll({ queryKey: ['board'] })) {
    const board = query.state.data as Board | undefined;
    const anew = () => queries.invalidateQueries({ queryKey: query.queryKey, exact: true });
    // What is being asked for may have been answered before the change.
    if (!board || query.state.fetchStatus !== 'idle') {
      void anew();
      continue;
    }
    const shown = shownBy(board, changes);
    if (shown.length === 0) continue;
    if (!query.isActive() || shown.length > MOST_CHANGES) {
      void anew();
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
      void anew();
    }
  }
};

/**
 * Follows what others change while the screen is open; tells whether the connection is lost. It is made again by itself,
 * and then everything is looked at anew. Where a change says which events it was about, only these are asked for.
 */
export const useLive = (): boolean => {
  const queries = useQueryClient();
  const [lost, setLost] = useState(false);
  useEffect(() => {
    let source: EventSource;
    let wasLost = false;
    let again: number | undefined;
    const later = new Map<string, number>();
    let waiting: ToldChange[] = [];
    let isBringing = false;
    const refresh = () => void queries.invalidateQueries();
    const lookLater = (keys: string[], wait: readonly [number, number]) => {
      for (const key of keys)
        if (!later.has(key))
          later.set(
            key,
            window.setTimeout(() => {
              later.delete(key);
              void queries.invalidateQueries({ queryKey: [key] });
            }, between(wait)),
          );
    };
    const bring = async () => {
      if (isBringing) return;
      isBringing = true;
      while (waiting.length > 0) {
        const changes = waiting;
        waiting = [];
        await bringIn(queries, changes);
      }
      isBringing = false;
    };
    const hear = ({ isOwn, events }: Told) => {
      if (isOwn && Date.now() - lastOwn <= OWN_MS) return;
      if (!events) {
        refresh();
        return;
      }
      for (const id of new Set(events.flatMap((c) => c.ids)))
        void queries.invalidateQueries({ queryKey: ['event', id] });
      waiting.push(...events);
      void bring();
      lookLater(LISTS, LISTS_MS);
      lookLater(COUNTS, isBoard() ? COUNTS_MS : LISTS_MS);
    };
    const open = () => {
      source = new EventSource('/api/changes');
      source.addEventListener('ready', () => {
        if (wasLost) refresh();
        wasLost = false;
        setLost(false);
      });
      source.addEventListener('changed', (e: MessageEvent<string>) => hear(JSON.parse(e.data) as Told));
      source.onerror = () => {
        wasLost = true;
        setLost(true);
        if (source.readyState !== EventSource.CLOSED) return;
        // Refused, not lost: a session that was ended elsewhere shows itself by asking anything.
        refresh();
        again = window.setTimeout(open, AGAIN_MS * (1 + Math.random()));
      };
    };
    open();
    return () => {
      window.clearTimeout(again);
      for (const timer of later.values()) window.clearTimeout(timer);
      source.close();
    };
  }, [queries]);
  return lost;
};
