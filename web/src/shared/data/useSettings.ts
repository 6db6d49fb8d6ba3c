import { useQueryClient, type QueryClient } from '@tanstack/react-query';
import { api, type PersonSettings, type Session } from '../api/client';
import { setHabits } from '../dates';
import { setLanguage } from '../i18n';
import { setMode } from '../theme/mode';
import { choose, type Personal } from './personal';

const WEEK_START = { monday: 1, saturday: 6, sunday: 7 } as const;

/** Makes the interface as the person wants it; what they never chose stays as this browser has it. */
export const applySettings = async (settings: PersonSettings) => {
  setHabits({
    hours: settings.hours === 12 || settings.hours === 24 ? settings.hours : null,
    monthFirst: settings.dateOrder === 'monthFirst',
    weekStart: (WEEK_START as Record<string, number>)[settings.weekStart ?? 'monday'] ?? 1,
  });
  if (settings.theme) setMode(settings.theme);
  if (settings.language === 'en' || settings.language === 'fr') await setLanguage(settings.language);
};

const SETTINGS: Personal<PersonSettings> = {
  known: (queries) => queries.getQueryData<Session>(['session'])?.settings,
  keep: (all) => api.keepSettings(all),
  show: async (queries, change) => {
    await applySettings({ ...queries.getQueryData<Session>(['session'])?.settings, ...change });
    queries.setQueryData<Session>(['session'], (now) => now && { ...now, settings: { ...now.settings, ...change } });
  },
};

/** Changes the person's settings by what they are now. */
export const keepSettings = async (
  queries: QueryClient,
  change: (now: PersonSettings) => Partial<PersonSettings>,
): Promise<void> => {
  let changed: Partial<PersonSettings> = {};
  await choose(queries, SETTINGS, (now) => (changed = change(now)));
  // What the server wrote in the person's zone is another.
  if ('zone' in changed) await queries.invalidateQueries();
};

/** The person's settings, and how one of them is changed. */
export const useSettings = (session: Session) => {
  const queries = useQueryClient();
  return {
    settings: session.settings,
    keep: (change: Partial<PersonSettings>) => keepSettings(queries, () => change),
  };
};
