import type { Calendar } from '../../shared/api/client';
import { useTexts } from '../../shared/i18n';
import { toggled, type Arrangement } from '../arrangement';
import './lanes.scss';

interface Props {
  calendars: Calendar[];
  arrangement: Arrangement;
  onArrange: (next: Arrangement) => void;
}

/** Says which calendars are not shown, in every form of the board, and shows them again. */
export const HiddenCalendars = ({ calendars, arrangement, onArrange }: Props) => {
  const { t } = useTexts();
  const hidden = calendars.filter((c) => arrangement.hidden.includes(c.id));
  if (hidden.length === 0) return null;
  return (
    <div className="lanes-hidden">
      <span className="quiet">{t('lanes.hidden', { count: hidden.length })}</span>
      <button type="button" className="btn btn-link p-0" onClick={() => onArrange({ ...arrangement, hidden: [] })}>
        {t('lanes.showAll')}
      </button>
      {hidden.map((calendar) => (
        <button
          key={calendar.id}
          type="button"
          className="btn btn-link p-0"
          aria-label={t('lanes.show', { calendar: calendar.title })}
          onClick={() => onArrange({ ...arrangement, hidden: toggled(arrangement.hidden, calendar.id) })}
        >
          {calendar.title}
        </button>
      ))}
    </div>
  );
};
