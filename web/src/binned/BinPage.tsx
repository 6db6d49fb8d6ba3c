import { useQuery } from '@tanstack/react-query';
import Button from 'react-bootstrap/Button';
import { api, asProblem, type Session } from '../shared/api/client';
import { dayOf, formatDay } from '../shared/dates';
import { useTexts } from '../shared/i18n';
import { Told } from '../shared/parts/Told';
import { useActions } from '../shared/data/actions';
import { useCalendars } from '../shared/data/useCalendars';
import './bin.scss';

/** What was deleted in the last thirty days, to be taken out again. */
export const BinPage = ({ school }: { school: Session['school'] }) => {
  const { t, language } = useTexts();
  const actions = useActions();
  const bin = useQuery({ queryKey: ['bin'], queryFn: api.bin });
  const calendars = useCalendars(school.today);
  if (bin.error) return <Told problem={asProblem(bin.error)} />;
  if (!bin.data) return <p className="loading">{t('loading')}</p>;
  const day = (text: string) => formatDay(dayOf(text), language, { day: 'numeric', month: 'long', year: 'numeric' });
  return (
    <main className="bin">
      <div className="page-head">
        <h1>{t('bin.title')}</h1>
        <p className="quiet">{t('bin.hint')}</p>
      </div>
      <div className="bin-body">
        {bin.data.length === 0 && <p>{t('bin.empty')}</p>}
        <ul>
          {bin.data.map((e) => {
            const calendar = calendars.data?.find((c) => c.id === e.calendarId);
            return (
              <li key={e.id} aria-label={e.title}>
                <span>
                  <strong>{e.title}</strong>{' '}
                  <span className="quiet">
                    {[calendar?.title ?? t('bin.calendarGone'), day(e.start), e.isSeries && t('list.series')]
                      .filter(Boolean)
                      .join(' · ')}
                  </span>
                </span>
                <span className="quiet">{t('bin.until', { day: day(e.until) })}</span>
                <Button
                  variant="link"
                  size="sm"
                  aria-label={t('bin.takeOutThis', { title: e.title })}
                  disabled={!calendar}
                  onClick={() => void actions.restoreEvent(e.id, e.title)}
                >
                  {t('bin.takeOut')}
                </Button>
              </li>
            );
          })}
        </ul>
      </div>
    </main>
  );
};
