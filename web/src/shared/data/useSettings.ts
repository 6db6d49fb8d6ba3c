import { useQueryClient, type QueryClient } from '@tanstack/react-query';
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

/** What was chosen and is not kept yet, for each client. */
const going = new WeakMap<QueryClient, { change: Partial<PersonSettings>; kept: Promise<unknown> }>();

/**
 * The person's settings, and how one of them is changed: at once here, and kept for every other screen of theirs. One chosen
 * right after another is kept after it and with it, whatever was asked for before says meanwhile.
 */
export const useSettings = (session: Session) => {
  const queries = useQueryClient();
  const keep = async (change: Partial<PersonSettings>) => {
    const before = going.get(queries);
    const all = { ...before?.change, ...change };
    const next = { ...session.settings, ...all };
    const kept = (before?.kept ?? Promise.resolve()).catch(() => undefined).then(() => api.keepSettings(next));
    const mine = { change: all, kept };
    going.set(queries, mine);
    const show = () =>
      queries.setQueryData<Session>(['session'], (now) => now && { ...now, settings: { ...now.settings, ...all } });
    await Promise.all([
      applySettings(next).then(show),
      kept.finally(() => {
        if (going.get(queries) === mine) going.delete(queries);
      }),
    ]);
    // An answer asked for before it was kept knows nothing of it.
    await queries.cancelQueries({ queryKey: ['session'] });
    show();
    // What the server wrote in the person's zone is another.
    if ('zone' in change) await queries.invalidateQueries();
  };
  return { settings: session.settings, keep };
};
