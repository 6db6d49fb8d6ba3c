import { useQuery } from '@tanstack/react-query';
import { api } from '../../shared/api/client';
import { agoText } from '../../shared/dates';
import { useTexts } from '../../shared/i18n';

/** How old what a lane shows is that comes from elsewhere. */
export const LaneState = ({ calendarId }: { calendarId: string }) => {
  const { t, language } = useTexts();
  const sources = useQuery({ queryKey: ['sources'], queryFn: api.sources, refetchInterval: 60_000 });
  const source = sources.data?.find((s) => s.calendarId === calendarId);
  if (!source) return null;
  const at = source.readAt ? agoText(source.readAt, language) : null;
  return (
    <small className={source.problem ? 'lane-state is-unwell' : 'lane-state'}>
      {at === null ? t('lanes.notRead') : t(source.problem ? 'lanes.failing' : 'lanes.readAt', { at })}
    </small>
  );
};
