import { useQuery } from '@tanstack/react-query';
import Button from 'react-bootstrap/Button';
import { api, type Audience, type Calendar, type Detail, type Reach } from '../shared/api/client';
import { formatDay } from '../shared/dates';
import { useTexts } from '../shared/i18n';

interface Props {
  calendar: Calendar;
  /** Who shall get what of it. */
  audience: Audience;
  detail: Detail;
  onOpen: (reach: Reach) => void;
  onLeave: () => void;
}

/** Before a calendar is opened wider: what becomes readable by whom, from when on, and where it may be found. */
export const OpeningAsk = ({ calendar, audience: forWhom, detail, onOpen, onLeave }: Props) => {
  const { t, language } = useTexts();
  const contents = useQuery({
    queryKey: ['contents', calendar.id],
    queryFn: () => api.calendarContents(calendar.id),
    staleTime: 0,
  });
  const opened = useQuery({
    queryKey: ['opened', calendar.reach, forWhom, detail],
    queryFn: () => api.opened(calendar.reach, forWhom, detail),
    staleTime: Infinity,
  }).data;
  const audience = opened?.widest;
  if (!opened || !audience || audience === 'team') return null;
  const to = opened.reach;
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
      <Button disabled={!data} onClick={() => onOpen(to)}>
        {t('calendar.openNow')}
      </Button>{' '}
      <Button variant="outline-primary" onClick={onLeave}>
        {t('calendar.notNow')}
      </Button>
    </div>
  );
};
