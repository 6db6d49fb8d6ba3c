import { useQuery } from '@tanstack/react-query';
import { useParams } from 'react-router';
import { api, asProblem, type Session } from '../shared/api/client';
import { useCalendars } from '../shared/data/useCalendars';
import { formatMoment } from '../shared/dates';
import { useTexts } from '../shared/i18n';
import { Told } from '../shared/parts/Told';
import { sizeText } from '../shared/data/uploads';
import { BringIn } from './BringIn';
import { Follow } from './Follow';
import { SourceDetail } from './SourceDetail';
import { SourceRow } from './SourceRow';
import './elsewhere.scss';

/** What is kept elsewhere: files are brought in, addresses followed, and what they give is sorted. */
export const ElsewherePage = ({ school, isAdministrator }: { school: Session['school']; isAdministrator: boolean }) => {
  const { t } = useTexts();
  const { id } = useParams();
  const sources = useQuery({ queryKey: ['sources'], queryFn: api.sources, refetchInterval: 30_000 });
  const known = useCalendars(school.today);
  if (sources.error) return <Told problem={asProblem(sources.error)} />;
  if (known.error) return <Told problem={asProblem(known.error)} />;
  if (!sources.data || !known.data) return <p className="loading">{t('loading')}</p>;
  const calendars = known.data;
  const shown = sources.data.find((s) => s.id === id);
  if (id)
    return shown ? (
      <SourceDetail key={shown.id} source={shown} calendars={calendars} />
    ) : (
      <main className="elsewhere">
        <div className="page-head">
          <h1>{t('elsewhere.gone')}</h1>
        </div>
      </main>
    );
  return (
    <main className="elsewhere">
      <div className="page-head">
        <h1>{t('elsewhere.title')}</h1>
        <p className="quiet">{t('elsewhere.hint')}</p>
      </div>
      <div className="elsewhere-body">
        <BringIn calendars={calendars} school={school} />
        <section aria-labelledby="followed-head">
          <h2 id="followed-head">{t('elsewhere.followed')}</h2>
          {sources.data.length === 0 && <p className="quiet">{t('elsewhere.noneFollowed')}</p>}
          <ul className="source-list">
            {sources.data.map((source) => (
              <SourceRow key={source.id} source={source} calendar={calendars.find((c) => c.id === source.calendarId)} />
            ))}
          </ul>
          <Follow calendars={calendars} school={school} />
        </section>
        <Record calendars={calendars} />
        {isAdministrator && (
          <section aria-labelledby="out-head">
            <h2 id="out-head">{t('elsewhere.takeOut')}</h2>
            <p className="quiet">{t('elsewhere.takeOutHint')}</p>
            <a className="btn btn-outline-primary" href="/api/export.zip" download>
              {t('elsewhere.takeOutAll')}
            </a>
          </section>
        )}
      </div>
    </main>
  );
};

/** Which files were brought in, by whom, and what came of it. */
const Record = ({ calendars }: { calendars: { id: string; title: string }[] }) => {
  const { t, language } = useTexts();
  const brought = useQuery({ queryKey: ['brought'], queryFn: api.brought });
  if (!brought.data || brought.data.length === 0) return null;
  return (
    <section aria-labelledby="brought-head">
      <h2 id="brought-head">{t('elsewhere.brought')}</h2>
      <ul className="brought-list">
        {brought.data.map((b) => (
          <li key={b.id}>
            <strong>{b.name}</strong> <span className="quiet">{sizeText(b.size, language)}</span>
            <span className="quiet">
              {[
                formatMoment(b.at, language),
                b.person,
                b.calendarIds
                  .map((id) => calendars.find((c) => c.id === id)?.title)
                  .filter(Boolean)
                  .join(', '),
                t('elsewhere.broughtCounts', { added: b.added, changed: b.changed, same: b.same }),
              ]
                .filter(Boolean)
                .join(' · ')}
            </span>
          </li>
        ))}
      </ul>
    </section>
  );
};
