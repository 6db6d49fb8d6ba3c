import { lazy, Suspense, type Dispatch, type ReactNode, type SetStateAction } from 'react';
import Form from 'react-bootstrap/Form';
import type { ApiProblem, Calendar, EditScope, Occurrence } from '../../shared/api/client';
import { FieldProblem } from '../../shared/parts/FieldProblem';
import { DateField, TimeField } from '../../shared/parts/DateField';
import { clockText, dayOf, longDay, zoneCity } from '../../shared/dates';
import { problemText, useTexts } from '../../shared/i18n';
import { moveFirstDay, moveStart, type EventDraft } from '../draft/draft';
import { FactFields } from './FactFields';
import { PlaceField } from './PlaceField';
import { mayEdit, mayOffer } from '../../shared/data/rights';
import { RepeatEditor } from './RepeatEditor';
import { SheetRow } from '../../shared/parts/Sheet';
import './fields.scss';

// The editor is large, and the board stands before anybody opens a sheet.
const RichField = lazy(() => import('./RichField'));

interface Props {
  draft: EventDraft;
  onDraft: Dispatch<SetStateAction<EventDraft>>;
  /** The saved event; null for a new one. */
  eventId?: string | null;
  /** Whether it can go to another calendar. */
  mayMove?: boolean;
  problem: ApiProblem | null;
  calendars: Calendar[];
  /** The date of a series the sheet was opened for. */
  occurrence?: Occurrence | null;
  autoFocus?: boolean;
  /** Which dates the fields are for; one date has no repeat of its own. */
  scope?: EditScope;
  /** The dates it makes, shown after when it is. */
  dates: ReactNode;
  /** What it clashes with, shown after where it is. */
  clashes: ReactNode;
}

/** The fields of an event, the same for a new one and a saved one. */
export const EventFields = ({
  draft,
  onDraft,
  eventId = null,
  mayMove = true,
  problem,
  calendars,
  occurrence,
  autoFocus,
  scope = 'everyDate',
  dates,
  clashes,
}: Props) => {
  const { t, language } = useTexts();
  const set = (change: Partial<EventDraft>) => onDraft({ ...draft, ...change });
  const wrong = (...fields: string[]) =>
    problem?.field && fields.includes(problem.field) ? problemText(t, problem) : null;
  const home = calendars.find((c) => c.id === draft.calendarId);
  const zone = draft.zone ?? home?.zone;

  return (
    <>
      <Form.Control
        className="sheet-title"
        aria-label={t('field.title')}
        placeholder={t('field.titlePlaceholder')}
        value={draft.title}
        autoFocus={autoFocus}
        isInvalid={wrong('title') !== null}
        onChange={(e) => set({ title: e.target.value })}
      />
      <FieldProblem text={wrong('title')} />
      <Form.Control
        className="sheet-subtitle"
        aria-label={t('facts.subtitle')}
        placeholder={t('facts.subtitle')}
        value={draft.facts.subtitle}
        isInvalid={wrong('facts.subtitle') !== null}
        onChange={(e) => set({ facts: { ...draft.facts, subtitle: e.target.value } })}
      />
      <FieldProblem text={wrong('facts.subtitle')} />
      <SheetRow label={t('sheet.when')}>
        {occurrence && (
          <p className="sheet-date">
            {longDay(dayOf(occurrence.date), language)}
            {!draft.allDay &&
              `, ${clockText(`${draft.firstDay}T${draft.from}`, language)}–${clockText(`${draft.lastDay}T${draft.to}`, language)}`}
          </p>
        )}
        <div className="when-grid">
          <span className="quiet">{t('field.starts')}</span>
          <DateField
            label={draft.rule && scope === 'everyDate' ? t('field.firstDate') : t('field.date')}
            value={draft.firstDay}
            onChange={(day) => onDraft(moveFirstDay(draft, day))}
          />
          {draft.allDay ? (
            <span />
          ) : (
            <TimeField
              label={t('field.from')}
              value={draft.from}
              onChange={(clock) => onDraft(moveStart(draft, clock))}
            />
          )}
          <span className="quiet">{t('field.ends')}</span>
          <DateField
            label={t('field.lastDay')}
            value={draft.lastDay}
            isInvalid={wrong('end') !== null}
            onChange={(lastDay) => set({ lastDay })}
          />
          {draft.allDay ? (
            <span />
          ) : (
            <TimeField
              label={t('field.to')}
              value={draft.to}
              isInvalid={wrong('end') !== null}
              onChange={(to) => set({ to })}
            />
          )}
        </div>
        <FieldProblem text={wrong('start', 'end')} />
        <div className="when-foot">
          <Form.Check
            type="checkbox"
            id="all-day"
            label={t('allDay')}
            checked={draft.allDay}
            onChange={(e) => set({ allDay: e.target.checked })}
          />
          {!draft.allDay && zone && <span className="quiet">{t('timesIn', { place: zoneCity(zone) })}</span>}
        </div>
        {scope !== 'thisDate' && (
          <RepeatEditor
            rule={draft.rule}
            start={draft.firstDay}
            follows={draft.follows}
            problem={wrong(
              'rule',
              'rule.interval',
              'rule.count',
              'rule.days',
              'follows',
              'follows.cycleDays',
              'follows.weeks',
            )}
            zone={draft.allDay ? null : (zone ?? null)}
            onRepeat={(rule, follows) => set({ rule, follows })}
          />
        )}
      </SheetRow>
      {dates}
      <SheetRow label={t('sheet.where')}>
        <PlaceField place={draft.place} isInvalid={wrong('place') !== null} onPlace={(place) => set({ place })} />
        <FieldProblem text={wrong('place')} />
        {clashes}
      </SheetRow>
      <SheetRow label={t('sheet.details')}>
        <Suspense fallback={<div className="form-control rich-text" aria-busy="true" />}>
          <RichField
            label={t('field.description')}
            placeholder={t('field.descriptionPlaceholder')}
            html={draft.description}
            isInvalid={wrong('description') !== null}
            onHtml={(description) => onDraft((now) => ({ ...now, description }))}
          />
        </Suspense>
        <FieldProblem text={wrong('description')} />
      </SheetRow>
      <SheetRow label={t('sheet.calendar')}>
        <Form.Select
          aria-label={t('field.calendar')}
          value={draft.calendarId}
          isInvalid={wrong('calendarId') !== null}
          onChange={(e) => set({ calendarId: e.target.value })}
        >
          {!home && <option value="">{t('field.chooseCalendar')}</option>}
          {calendars
            // It leaves only a calendar whose events one keeps; where it goes may have to be asked.
            .filter((c) => (mayMove && mayOffer(c)) || c.id === draft.calendarId)
            .map((c) => (
              <option key={c.id} value={c.id}>
                {mayEdit(c) || c.id === draft.calendarId ? c.title : t('proposal.asked', { calendar: c.title })}
              </option>
            ))}
        </Form.Select>
        <FieldProblem text={wrong('calendarId')} />
      </SheetRow>
      <FactFields
        isOneDate={scope === 'thisDate'}
        facts={draft.facts}
        home={draft.calendarId}
        calendars={calendars}
        problem={problem}
        eventId={eventId}
        onFacts={(change) => onDraft((now) => ({ ...now, facts: change(now.facts) }))}
      />
    </>
  );
};
