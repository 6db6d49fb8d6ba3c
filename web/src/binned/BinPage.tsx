import { useQuery } from '@tanstack/react-query';
import Button from 'react-bootstrap/Button';
import { api, asProblem, type Session } from '../shared/api/client';
import { dayOf, formatDay, formatMoment } from '../shared/dates';
import { useTexts } from '../shared/i18n';
import { markClass, Spine } from '../shared/parts/Spine';
import { Told } from '../shared/parts/Told';
import { useActions } from '../shared/data/actions';
import { useCalendars } from '../shared/data/useCalendars';
import './bin.scss';

/** What was deleted in the last thirty days, to be taken out again. */
export const BinPage = ({ school }: { school: Session['school'] }) => {
  const { t, language } = useTexts();
  const actions = useActions();
  const bin = useQuery({ queryKey: ['bin'], queryFn: api.bin });
  const binned = useQuery({ queryKey: ['bin', 'calendars'], queryFn: api.binnedCalendars });
  const calendars = useCalendars(school.today);
  const error = bin.error ?? binned.error ?? calendars.error;
  if (error) return <Told problem={asProblem(error)} />;
  if (!bin.data || !binned.data || !calendars.data) return <p className="loading">{t('loading')}</p>;
  const day = (text: string) => formatDay(dayOf(text), language, { day: 'numeric', month: 'long', year: 'numeric' });
  return (
    <main className="bin">
      <div className="page-head">
        <h1>{t('bin.title')}</h1>
        <p className="quiet">{t('bin.hint')}</p>
      </div>
      <div className="bin-body">
        {bin.data.length + binned.data.length === 0 && <p>{t('bin.empty')}</p>}
        {binned.data.length > 0 && (
          <>
            <h2>{t('bin.calendars')}</h2>
            <ul aria-label={t('bin.calendars')}>
              {binned.data.map((c) => (
                <Binned
                  key={c.id}
                  title={c.title}
                  mark={c.mark}
                  more={t('bin.holds', { count: c.events })}
                  when={t('bin.since', { day: formatMoment(c.deletedAt, language) })}
                  onTakeOut={() => void actions.restoreCalendar(c.id, c.title)}
                />
              ))}
            </ul>
            {bin.data.length > 0 && <h2>{t('bin.events')}</h2>}
          </>
        )}
        <ul aria-label={t('bin.events')}>
          {bin.data.map((e) => {
            const calendar = calendars.data.find((c) => c.id === e.calendarId);
            return (
              <Binned
                key={e.id}
                title={e.title}
                more={[calendar?.title ?? t('bin.calendarGone'), day(e.start), e.isSeries && t('list.series')]
                  .filter(Boolean)
                  .join(' · ')}
                when={t('bin.until', { day: formatMoment(e.until, language) })}
                isHeld={!calendar}
                onTakeOut={() => void actions.restoreEvent(e.id, e.title)}
              />
            );
          })}
        </ul>
      </div>
    </main>
  );
};

interface BinnedProps {
  title: string;
  mark?: number;
  more: string;
  when: string;
  /** Whether it cannot be taken out by itself. */
  isHeld?: boolean;
  onTakeOut: () => void;
}

const Binned = ({ title, mark, more, when, isHeld, onTakeOut }: BinnedProps) => {
  const { t } = useTexts();
  return (
    <li aria-label={title} className={mark ? markClass(mark) : ''}>
      {mark && <Spine />}
      <span className="what">
        <strong>{title}</strong> <span className="quiet">{more}</span>
      </span>
      <span className="quiet">{when}</span>
      <Button
        variant="link"
        size="sm"
        aria-label={t('bin.takeOutThis', { title })}
        disabled={isHeld}
        onClick={onTakeOut}
      >
        {t('bin.takeOut')}
      </Button>
    </li>
  );
};
