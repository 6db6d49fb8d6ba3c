import { useId } from 'react';
import Form from 'react-bootstrap/Form';
import type { Calendar } from '../shared/api/client';
import { useTexts } from '../shared/i18n';

interface Props {
  calendars: Calendar[];
  chosen: string[];
  onChoose: (ids: string[]) => void;
}

/** For whom a closure is: the whole school, or chosen calendars. */
export const CalendarChoice = ({ calendars, chosen, onChoose }: Props) => {
  const { t } = useTexts();
  // There is one of it for each closure.
  const id = useId();
  const names = calendars.filter((c) => chosen.includes(c.id)).map((c) => c.title);
  return (
    <details className="calendar-choice">
      <summary>{names.length === 0 ? t('year.forAll') : t('year.forSome', { calendars: names.join(', ') })}</summary>
      <Form.Check
        type="checkbox"
        id={`${id} all`}
        label={t('year.forAll')}
        checked={chosen.length === 0}
        onChange={() => onChoose([])}
      />
      {calendars.map((calendar) => (
        <Form.Check
          key={calendar.id}
          type="checkbox"
          id={`${id} ${calendar.id}`}
          label={calendar.title}
          checked={chosen.includes(calendar.id)}
          onChange={(e) =>
            onChoose(e.target.checked ? [...chosen, calendar.id] : chosen.filter((id) => id !== calendar.id))
          }
        />
      ))}
    </details>
  );
};
