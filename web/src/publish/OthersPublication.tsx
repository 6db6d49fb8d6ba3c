import Button from 'react-bootstrap/Button';
import { api, type Calendar, type Publication } from '../shared/api/client';
import { useTexts } from '../shared/i18n';
import { markClass, Spine } from '../shared/parts/Spine';

interface Props {
  publication: Publication;
  calendars: Calendar[];
  onRun: (work: () => Promise<Publication>) => Promise<unknown>;
}

/** A publication of others in which own calendars stand: what it is, where it shows, and how to take them out. */
export const OthersPublication = ({ publication, calendars, onRun }: Props) => {
  const { t } = useTexts();
  const own = calendars.filter((c) => c.role === 'keeper' && publication.calendarIds.includes(c.id));
  return (
    <>
      <h2 className="sheet-title">{publication.title}</h2>
      <p>
        {publication.owner ? t('publish.madeBy', { who: publication.owner }) : t('publish.madeBySomebody')}{' '}
        {t('publish.othersOwn')}
      </p>
      <p>
        <a href={publication.links.page} target="_blank" rel="noopener">
          {t('publish.openPage')}
        </a>
      </p>
      <ul className="calendar-choice">
        {own.map((calendar) => (
          <li key={calendar.id} className={markClass(calendar.mark)}>
            <Spine />
            <span className="choice-title">{calendar.title}</span>
            <Button
              size="sm"
              variant="outline-danger"
              onClick={() => void onRun(() => api.takeOut(publication.id, calendar.id))}
            >
              {t('publish.takeOut', { title: calendar.title })}
            </Button>
          </li>
        ))}
      </ul>
      {own.length === 0 && <p className="quiet">{t('publish.takenOut')}</p>}
    </>
  );
};
