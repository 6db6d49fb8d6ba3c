import { useQuery } from '@tanstack/react-query';
import Button from 'react-bootstrap/Button';
import { api, type Calendar, type Reach } from '../shared/api/client';
import { formatDay } from '../shared/dates';
import { useTexts } from '../shared/i18n';
import { widest } from '../shared/reach';

interface Props {
  calendar: Calendar;
  /** The reach it would have. */
  to: Reach;
  onOpen: () => void;
  onLeave: () => void;
}

/** Before a calendar is opened wider: what becomes readable by whom, from when on, and where it may be found. */
export const OpeningAsk = ({ calendar, to, onOpen, onLeave }: Props) => {
  const { t, language } = useTexts();
  const contents = useQuery({
    queryKey: ['contents', calendar.id],
    queryFn: () => api.calendarContents(calendar.id),
    staleTime: 0,
  });
  const audience = widest(calendar.reach, to);
  if (!audience) return null;
  const { data } = contents;
  const since = data?.first && formatDay(data.first, language, { day: 'numeric', month: 'long', year: 'numeric' });
  const said = data && [
    t(`calendar.openingTo.${audience}`, { title: calendar.title }),
    since
      ? t('calendar.opening', { count: data.events, date: since, what: t(`calendar.openingWhat.${to[audience]}`) })
      : t('calendar.openingEmpty'),
    to[audience] === 'everything' && data.files > 0 && t('calendar.openingFiles', { count: data.files }),
    audience !== 'members' && !calendar.isOutOfSearch && t('calendar.openingSearch'),
  ];
  return (
    <div className="notice" role="alert">
      <p>{said ? said.filter(Boolean).join(' ') : t('loading')}</p>
      <Button disabled={!data} onClick={onOpen}>
        {t('calendar.openNow')}
      </Button>{' '}
      <Button variant="outline-primary" onClick={onLeave}>
        {t('calendar.notNow')}
      </Button>
    </div>
  );
};
