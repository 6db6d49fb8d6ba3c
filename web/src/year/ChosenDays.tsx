import { useState, type SubmitEvent } from 'react';
import Button from 'react-bootstrap/Button';
import Form from 'react-bootstrap/Form';
import type { Calendar, DayInfo } from '../shared/api/client';
import { dayRangeText, longDay } from '../shared/dates';
import { useTexts } from '../shared/i18n';
import { CalendarChoice } from './CalendarChoice';
import type { DaySpan, YearDraft } from './yearDraft';

interface Props {
  span: DaySpan;
  info: DayInfo | undefined;
  draft: YearDraft;
  calendars: Calendar[];
  onDraft: (draft: YearDraft) => void;
  onDone: () => void;
}

/** What can be made of the days that were drawn: a closure, a term, a place in the rotation. */
export const ChosenDays = ({ span, info, draft, calendars, onDraft, onDone }: Props) => {
  const { t, language } = useTexts();
  const [name, setName] = useState('');
  const [calendarIds, setCalendarIds] = useState<string[]>([]);
  const single = span.first === span.last;
  const pin = single ? draft.pins.find((p) => p.date === span.first) : undefined;

  const closure = (e: SubmitEvent) => {
    e.preventDefault();
    const named = name.trim() || t('year.newClosure');
    onDraft({
      ...draft,
      closures: [...draft.closures, { name: named, ...span, calendarIds }].sort((a, b) =>
        a.first.localeCompare(b.first),
      ),
    });
    onDone();
  };
  const term = () => {
    const named = name.trim() || t('year.newTerm', { number: draft.terms.length + 1 });
    onDraft({
      ...draft,
      terms: [...draft.terms, { name: named, ...span }].sort((a, b) => a.first.localeCompare(b.first)),
    });
    onDone();
  };
  const setPin = (cycleDay: number) =>
    onDraft({
      ...draft,
      pins: [
        ...draft.pins.filter((p) => p.date !== span.first),
        ...(cycleDay ? [{ date: span.first, cycleDay }] : []),
      ].sort((a, b) => a.date.localeCompare(b.date)),
    });

  return (
    <form className="year-part chosen-days" aria-label={t('year.chosen')} onSubmit={closure}>
      <h2>{single ? longDay(span.first, language) : dayRangeText(span.first, span.last, language)}</h2>
      <Form.Control
        size="sm"
        aria-label={t('year.nameOf')}
        placeholder={t('year.namePlaceholder')}
        value={name}
        onChange={(e) => setName(e.target.value)}
      />
      <CalendarChoice calendars={calendars} chosen={calendarIds} onChoose={setCalendarIds} />
      <div className="chosen-buttons">
        <Button size="sm" type="submit">
          {t('year.addClosure')}
        </Button>
        {!single && (
          <Button size="sm" variant="outline-primary" onClick={term}>
            {t('year.addTerm')}
          </Button>
        )}
        <Button size="sm" variant="link" onClick={onDone}>
          {t('cancel')}
        </Button>
      </div>
      {single && draft.cycleLength > 0 && info?.isSchoolDay && (
        <label className="repeat-line">
          {t('year.pin')}
          <Form.Select size="sm" value={pin?.cycleDay ?? 0} onChange={(e) => setPin(Number(e.target.value))}>
            <option value={0}>{t('year.counted')}</option>
            {Array.from({ length: draft.cycleLength }, (_, i) => (
              <option key={i} value={i + 1}>
                {t('lanes.cycleDay', { day: i + 1 })}
              </option>
            ))}
          </Form.Select>
        </label>
      )}
    </form>
  );
};
