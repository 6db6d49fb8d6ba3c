import { useQuery, useQueryClient } from '@tanstack/react-query';
import { useSearchParams } from 'react-router';
import { api, type BoardSettings, type Calendar } from '../shared/api/client';
import { choose, type Personal } from '../shared/data/personal';
import { arrangementOf, fromParams, toParams, type Arrangement } from './arrangement';

const KEY = ['me-board'];

/** What the person has kept of the board; undefined while it is on its way. */
export const useBoardSettings = (): BoardSettings | undefined =>
  useQuery({ queryKey: KEY, queryFn: api.boardSettings, staleTime: Infinity }).data;

const BOARD: Personal<BoardSettings> = {
  known: (queries) => queries.getQueryData<BoardSettings>(KEY),
  // What another screen of the person has chosen meanwhile stays.
  keep: (_, chosen) => api.keepBoardSettings(chosen),
  show: (queries, change) => queries.setQueryData<BoardSettings>(KEY, (now) => now && { ...now, ...change }),
};

/** Keeps a change of how the board is; a lost connection loses only the keeping. */
export const useKeepBoard = () => {
  const queries = useQueryClient();
  return (change: Partial<BoardSettings>) => void choose(queries, BOARD, () => change).catch(() => undefined);
};

/** The rows of the lanes as the address or the person has them; a change is kept and stands in the address. */
export const useArrangement = (calendars: Calendar[]): [Arrangement, (next: Arrangement) => void] => {
  const settings = useBoardSettings();
  const keep = useKeepBoard();
  const [params, setParams] = useSearchParams();
  const asked = fromParams(params, calendars);
  const current = asked ?? arrangementOf(settings);
  const change = (next: Arrangement) => {
    keep(next);
    setParams(
      (old) => {
        const made = new URLSearchParams(old);
        for (const [name, value] of Object.entries(toParams(next))) {
          if (value) made.set(name, value);
          else made.delete(name);
        }
        return made;
      },
      { replace: true },
    );
  };
  return [current, change];
};
