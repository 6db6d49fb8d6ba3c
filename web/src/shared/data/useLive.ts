import { useQueryClient } from '@tanstack/react-query';
import { useEffect, useState } from 'react';
import type { ToldChange } from './boardChanges';
import { bringIntoBoards, didOther, notOwn, ownDone } from './bringIn';

const AGAIN_MS = 3_000;
/** Lists that are on the screen follow a little later, and not on all screens at once. */
const LISTS_MS = [2_000, 8_000] as const;
const LISTS = [
  ['bin'],
  // What is shown from both is shown once.
  ['publications', 'proof'],
  ['who-sees'],
  ['search'],
  ['board-as'],
  ['shared-places'],
  ['sources'],
  ['source-readings'],
];
/** What is counted beside the board follows at leisure; where it is what the screen is about it is one of the lists. */
const COUNTS_MS = [30_000, 90_000] as const;
const COUNTS = [['year'], ['checks'], ['proposals'], ['opening-requests']];
const isBoard = () => location.pathname.startsWith('/plan');

const SESSION_MS = 5_000;

interface Told {
  isOwn: boolean;
  events: ToldChange[] | null;
}

const between = ([least, most]: readonly [number, number]): number => least + Math.random() * (most - least);

/**
 * Follows what others change while the screen is open; tells whether the connection is lost. It is made again by itself,
 * and then everything is looked at anew. Where a change says which events it was about, only these are asked for.
 */
export const useLive = (): boolean => {
  const queries = useQueryClient();
  const [lost, setLost] = useState(false);
  const [begun] = useState(() => performance.now());
  useEffect(() => {
    let source: EventSource;
    let wasLost = false;
    let again: number | undefined;
    const later = new Map<string, number>();
    const refresh = () => void queries.invalidateQueries();
    const lookLater = (lists: string[][], wait: readonly [number, number]) => {
      for (const keys of lists) {
        const name = keys.join(' ');
        if (later.has(name)) continue;
        const look = () => {
          later.delete(name);
          for (const key of keys) void queries.invalidateQueries({ queryKey: [key] });
        };
        later.set(name, window.setTimeout(look, between(wait)));
      }
    };
    const hear = async ({ isOwn, events }: Told) => {
      if (isOwn) await ownDone();
      if (!events) {
        if (!isOwn || !didOther()) refresh();
        return;
      }
      const news = notOwn(events);
      if (news.length === 0) return;
      for (const id of new Set(news.flatMap((c) => c.ids))) void queries.invalidateQueries({ queryKey: ['event', id] });
      void bringIntoBoards(queries, news);
      lookLater(LISTS, LISTS_MS);
      lookLater(COUNTS, isBoard() ? COUNTS_MS : LISTS_MS);
    };
    const open = () => {
      // What changed between an answer and this being open would be told to nobody. The session was asked for a little earlier.
      const since = Math.min(performance.now(), performance.now() - begun + SESSION_MS);
      source = new EventSource(`/api/changes?since=${Math.round(since)}`);
      source.addEventListener('ready', () => {
        if (wasLost) refresh();
        wasLost = false;
        setLost(false);
      });
      source.addEventListener('changed', (e: MessageEvent<string>) => void hear(JSON.parse(e.data) as Told));
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
  }, [queries, begun]);
  return lost;
};
