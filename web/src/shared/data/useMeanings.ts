import { useQuery, useQueryClient } from '@tanstack/react-query';
import type { Session } from '../api/client';
import { keepSettings } from './useSettings';

const NONE: Record<string, string> = {};

/** What the person said that parts of typed lines mean, by the part; empty where it is title. */
export const useMeanings = () => {
  const queries = useQueryClient();
  // Asked by the workspace; here it is only looked at.
  const { data: session } = useQuery<Session>({ queryKey: ['session'], enabled: false });
  const meanings: Record<string, string> = session?.settings.meanings ?? NONE;
  const set = (change: (now: Record<string, string>) => Record<string, string>) =>
    keepSettings(queries, (now) => ({ meanings: change(now.meanings ?? NONE) }));
  return {
    meanings,
    schoolZone: session?.settings.zone ?? session?.school.zone,
    keep: (part: string, meant: string) => set((now) => ({ ...now, [part]: meant })),
    forget: (part: string) => set((now) => Object.fromEntries(Object.entries(now).filter(([known]) => known !== part))),
  };
};
