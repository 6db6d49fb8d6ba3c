import { useQueryClient } from '@tanstack/react-query';
import { api, type PersonSettings, type Session } from '../api/client';
import { setHabits } from '../dates';
import { setLanguage } from '../i18n';
import { setMode } from '../theme/mode';

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

/** The person's settings, and how one of them is changed: at once here, and kept for every other screen of theirs. */
export const useSettings = (session: Session) => {
  const queries = useQueryClient();
  const keep = async (change: Partial<PersonSettings>) => {
    const next = { ...session.settings, ...change };
    await applySettings(next);
    queries.setQueryData<Session>(['session'], { ...session, settings: next });
    await api.keepSettings(next);
    // What the server wrote in the person's zone is another.
    if ('zone' in change) await queries.invalidateQueries();
  };
  return { settings: session.settings, keep };
};
