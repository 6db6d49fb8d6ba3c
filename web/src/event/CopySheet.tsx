import { useId, useState, type SubmitEvent } from 'react';
import Button from 'react-bootstrap/Button';
import Form from 'react-bootstrap/Form';
import { asProblem, type ApiProblem, type Calendar, type Occurrence, type Shift } from '../shared/api/client';
import { useActions } from '../shared/data/actions';
import { mayEdit, mayOffer, useAsked } from '../shared/data/rights';
import { addDays, addMinutes, clockText, dayOf, daysBetween, longDay } from '../shared/dates';
import { useTexts } from '../shared/i18n';
import { DateField } from '../shared/parts/DateField';
import { FieldProblem } from '../shared/parts/FieldProblem';
import { problemText } from '../shared/i18n';
import { Sheet, SheetRow } from '../shared/parts/Sheet';
import { Told } from '../shared/parts/Told';
import { ToKeepers } from './ToKeepers';
import './event.scss';

interface Props {
  occurrence: Occurrence;
  /** Where it was dropped or pasted; null when that is still to be chosen. */
  shift: Shift | null;
  calendars: Calendar[];
  onClose: () => void;
}

/** Another event like one: this date or all of its series, on which day and in which calendar. */
export const CopySheet = ({ occurrence: o, shift, calendars, onClose }: Props) => {
  const { t, language } = useTexts();
  const actions = useActions();
  const name = useId();
  const [isSeries, setSeries] = useState(false);
  // Nobody wants it where it is already.
  const [day, setDay] = useState(addDays(o.firstDay, shift?.days ?? 7));
  const [calendarId, setCalendarId] = useState(() => {
    const wanted = [shift?.calendarId, o.calendarId].map((id) => calendars.find((c) => c.id === id)).find(mayOffer);
    return (wanted ?? calendars.find(mayEdit) ?? calendars.find(mayOffer))?.id ?? '';
  });
  const [remark, setRemark] = useState('');
  const [problem, setProblem] = useState<ApiProblem | null>(null);
  const [isBusy, setBusy] = useState(false);
  const calendar = calendars.find((c) => c.id === calendarId);
  const asked = useAsked({ calendarId }, null);
  const time = o.allDay ? t('allDay') : `${clockText(o.start, language)}–${clockText(o.end, language)}`;

  const submit = async (e: SubmitEvent) => {
    e.preventDefault();
    setBusy(true);
    const [days, minutes] = [daysBetween(o.firstDay, day), shift?.minutes ?? 0];
    const to: Shift = { days, minutes, longerDays: 0, longerMinutes: 0, calendarId, place: shift?.place ?? null };
    const there = addMinutes(`${addDays(dayOf(o.date), days)}${o.date.slice(10)}`, minutes);
    try {
      await actions.copyEvent(o.eventId, { date: o.date, isSeries, shift: to, remark }, isSeries ? there : null);
      onClose();
    } catch (error) {
      setProblem(asProblem(error));
      setBusy(false);
    }
  };

  return (
    <Sheet
      label={t('copy.title', { title: o.title })}
      head={calendar?.title}
      mark={calendar?.mark ?? null}
      onClose={onClose}
    >
      <form onSubmit={(e) => void submit(e)} noValidate>
        <h2 className="sheet-title">{t('copy.title', { title: o.title })}</h2>
        <p className="quiet">
          {longDay(o.firstDay, language)}, {time}
        </p>
        {o.isSeries && (
          <SheetRow label={t('copy.what')}>
            {[false, true].map((whole) => (
              <Form.Check
                key={String(whole)}
                type="radio"
                name={name}
                id={`${name}-${String(whole)}`}
                label={t(whole ? 'copy.series' : 'copy.date')}
                checked={isSeries === whole}
                onChange={() => setSeries(whole)}
              />
            ))}
            <p className="quiet">{t(isSeries ? 'copy.seriesSays' : 'copy.dateSays')}</p>
          </SheetRow>
        )}
        <SheetRow label={t('copy.to')}>
          <Form.Select
            aria-label={t('field.calendar')}
            value={calendarId}
            onChange={(e) => setCalendarId(e.target.value)}
          >
            {calendars.filter(mayOffer).map((c) => (
              <option key={c.id} value={c.id}>
                {mayEdit(c) ? c.title : t('proposal.asked', { calendar: c.title })}
              </option>
            ))}
          </Form.Select>
          <DateField label={t('copy.day')} value={day} onChange={setDay} />
          <FieldProblem text={problem?.field ? problemText(t, problem) : null} />
        </SheetRow>
        {asked.length > 0 && <ToKeepers asked={asked} calendars={calendars} remark={remark} onRemark={setRemark} />}
        {problem && !problem.field && <Told problem={problem} />}
        <div className="sheet-foot">
          <Button type="submit" disabled={isBusy || calendarId === ''}>
            {t(asked.length > 0 ? 'proposal.propose' : 'copy.do')}
          </Button>
          <Button variant="outline-primary" onClick={onClose}>
            {t('cancel')}
          </Button>
        </div>
      </form>
    </Sheet>
  );
};
