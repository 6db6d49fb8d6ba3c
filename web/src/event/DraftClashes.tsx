import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { useClashText } from '../shared/useClashText';
import { api, type Calendar, type EventInput } from '../shared/api/client';
import { useTexts } from '../shared/i18n';
import { useDebounced } from '../shared/useDebounced';

interface Props {
  input: EventInput;
  id: string | null;
  calendars: Calendar[];
  enabled?: boolean;
}

const SHOWN = 4;
const NOBODY = '00000000-0000-0000-0000-000000000000';

/** What an event as it is typed would clash with; nothing is shown while it clashes with nothing. */
export const DraftClashes = ({ input, id, calendars, enabled = true }: Props) => {
  const { t } = useTexts();
  const text = useClashText();
  const request = useDebounced(JSON.stringify({ event: input, id }), 300);
  const checks = useQuery({
    queryKey: ['checks', 'event', request],
    queryFn: () => api.checkEvent(JSON.parse(request) as { event: EventInput; id: string | null }),
    enabled: enabled && input.calendarId !== '',
    placeholderData: keepPreviousData,
    retry: false,
  });
  const clashes = (enabled && checks.data?.clashes.filter((c) => c.accepted === null)) || [];
  if (clashes.length === 0 || checks.error) return null;
  return (
    <ul className="draft-clashes" aria-label={t('clash.label')} aria-live="polite">
      {clashes.slice(0, SHOWN).map((clash) => (
        <li key={clash.key}>{text({ clash, calendars, beside: id ?? NOBODY })}</li>
      ))}
      {clashes.length > SHOWN && <li>{t('edit.more', { count: clashes.length - SHOWN })}</li>}
    </ul>
  );
};
