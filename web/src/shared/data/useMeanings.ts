import { useQuery, useQueryClient } from '@tanstack/react-query';
import { api, type Session } from '../api/client';

const NONE: Record<string, string> = {};

/** What the person said that parts of typed lines mean, by the part; empty where it is title. */
export const useMeanings = () => {
  const queries = useQueryClient();
  // Asked by the workspace; here it is only looked at.
  const { data: session } = useQuery<Session>({ queryKey: ['session'], enabled: false });
  const meanings: Record<string, string> = session?.settings.meanings ?? NONE;
  const set = async (next: Record<string, string>) => {
    if (!session) return;
    const settings = { ...session.settings, meanings: next };
    queries.setQueryData<Session>(['session'], { ...session, settings });
    await api.keepSettings(settings);
  };
  return {
    meanings,
    schoolZone: session?.settings.zone ?? session?.school.zone,
    keep: (part: string, meant: string) => set({ ...meanings, [part]: meant }),
    forget: (part: string) => set(Object.fromEntries(Object.entries(meanings).filter(([key]) => key !== part))),
  };
};
