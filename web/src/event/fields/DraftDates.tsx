import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { useRef, useState } from 'react';
import Button from 'react-bootstrap/Button';
import { api, asProblem, type EventData } from '../../shared/api/client';
import { DateField, type Reader } from '../../shared/parts/DateField';
import { addMonths, dayOf, formatDay, longDay, monthDays, weekday, type Day } from '../../shared/dates';
import { useTexts } from '../../shared/i18n';
import { Told } from '../../shared/parts/Told';
import { useDebounced } from '../../shared/useDebounced';
import { timingOf, type EventDraft } from '../draft/draft';
import { SheetRow } from '../../shared/parts/Sheet';
import './fields.scss';

interface Props {
  draft: EventDraft;
  /** The series as it is saved, with what was done to single dates; null for a new one. */
  event: EventData | null;
  around: Day | null;
  chosen?: string;
  onPick?: (start: string, skipped: boolean) => void;
  onAdd?: (start: string) => void;
}

type Mark = 'skipped' | 'off' | 'changed' | 'extra' | null;

const MONTHS = 2;

/** The dates a repeat makes: said as a sentence, and on two months of a small calendar. */
export const DraftDates = ({ draft, event, around, chosen, onPick, onAdd }: Props) => {
  const { t, language } = useTexts();
  const [adding, setAdding] = useState<Day>(around ?? draft.firstDay);
  // What is typed is read before it is added, however quick the hand.
  const readAdding = useRef<Reader<Day>>(null);
  const add = async () => {
    const day = await readAdding.current?.();
    if (day && event) onAdd?.(`${day}T${event.timing.start.slice(11)}`);
  };
  const [month, setMonth] = useState<Day | null>(null);
  const skips = event?.skips ?? [];
  const extras = event?.extras ?? [];
  const request = useDebounced(
    JSON.stringify({
      calendarId: draft.calendarId,
      timing: timingOf(draft),
      rule: draft.rule,
      follows: draft.follows,
      skips,
      // What was changed on a date of a series that follows school days holds it.
      extras: draft.follows && event ? [...extras, ...event.changes.map((c) => c.date)] : extras,
      around,
      month,
      language,
    }),
    200,
  );
  const complete = draft.firstDay !== '' && draft.lastDay !== '' && draft.from !== '' && draft.to !== '';
  const dates = useQuery({
    queryKey: ['dates', request],
    queryFn: () => api.dates(JSON.parse(request) as Parameters<typeof api.dates>[0]),
    enabled: draft.rule !== null && draft.calendarId !== '' && complete,
    placeholderData: keepPreviousData,
    retry: false,
  });
  if (!draft.rule || !complete) return null;
  const data = dates.data;
  const markOf = (start: string, skipped: boolean): Mark => {
    const change = event?.changes.find((c) => c.date === start);
    if (skipped) return 'skipped';
    if (change) return change.calledOff ? 'off' : 'changed';
    return extras.includes(start) ? 'extra' : null;
  };
  const monthName = (first: Day) => formatDay(first, language, { month: 'long', year: 'numeric' });
  return (
    <SheetRow label={t('dates.label')}>
      {dates.error && <Told problem={asProblem(dates.error)} />}
      {!dates.error && data && (
        <>
          {data.moved && (
            <p className="notice notice-plain">{t('dates.moved', { date: longDay(dayOf(data.start), language) })}</p>
          )}
          <p className="rule-text rule-said">{data.sentence}</p>
          <p className="dates-sum">
            {data.total === null
              ? t('dates.endless')
              : t('dates.sum', {
                  count: data.total,
                  last: formatDay(data.last ?? '', language, { day: 'numeric', month: 'long', year: 'numeric' }),
                })}
          </p>
          <div
            className="small-months"
            role="group"
            aria-label={t('dates.months', {
              first: monthName(data.month),
              second: monthName(addMonths(data.month, 1)),
            })}
          >
            {Array.from({ length: MONTHS }, (_, i) => addMonths(data.month, i)).map((first, i) => (
              <div key={first} className="small-month">
                <div className="small-month-head">
                  {i === 0 && (
                    <button
                      type="button"
                      aria-label={t('dates.earlier')}
                      onClick={() => setMonth(addMonths(data.month, -MONTHS))}
                    >
                      ‹
                    </button>
                  )}
                  <span>{monthName(first)}</span>
                  {i === MONTHS - 1 && (
                    <button
                      type="button"
                      aria-label={t('dates.later')}
                      onClick={() => setMonth(addMonths(data.month, MONTHS))}
                    >
                      ›
                    </button>
                  )}
                </div>
                {monthDays(first).map((day) => {
                  const own = data.dates.filter((d) => dayOf(d.start) === day);
                  const closure = data.shut.find((s) => s.date === day)?.closure;
                  const date = own.find((d) => d.start === chosen) ?? own[0];
                  const shut = closure ? t('dates.shut', { date: longDay(day, language), closure }) : undefined;
                  const place = { gridColumn: weekday(day) };
                  if (!date)
                    return (
                      <span key={day} className={closure ? 'is-shut' : ''} style={place} title={shut}>
                        {Number(day.slice(8))}
                      </span>
                    );
                  const mark = markOf(date.start, date.skipped);
                  const name = longDay(day, language);
                  return (
                    <button
                      key={day}
                      type="button"
                      className={[mark && `is-${mark}`, closure && 'is-shut'].filter(Boolean).join(' ')}
                      style={place}
                      aria-pressed={date.start === chosen}
                      disabled={!onPick}
                      title={shut ?? (date.skipped ? t('dates.putBack') : undefined)}
                      aria-label={mark ? t(`dates.${mark}`, { date: name }) : name}
                      onClick={() => onPick?.(date.start, date.skipped)}
                    >
                      {Number(day.slice(8))}
                    </button>
                  );
                })}
              </div>
            ))}
          </div>
          {onAdd && event && (
            <div
              className="add-date"
              onKeyDown={(e) => {
                if (e.key !== 'Enter') return;
                // It adds the date, and does not send the form around it.
                e.preventDefault();
                void add();
              }}
            >
              <DateField label={t('dates.add')} value={adding} onChange={setAdding} reader={readAdding} />
              <Button variant="outline-primary" size="sm" disabled={!adding} onClick={() => void add()}>
                {t('dates.addButton')}
              </Button>
            </div>
          )}
        </>
      )}
    </SheetRow>
  );
};
