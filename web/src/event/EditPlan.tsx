import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { useEffect } from 'react';
import Form from 'react-bootstrap/Form';
import { api, type Change, type EditInput, type MisfitChoice, type SeriesPlan } from '../shared/api/client';
import { clockText, dayOf, shortDay } from '../shared/dates';
import { useTexts } from '../shared/i18n';
import { useDebounced } from '../shared/useDebounced';
import { SheetRow } from '../shared/parts/Sheet';
import type { Choices } from './draft/editing';
import './event.scss';

const CHOICES: MisfitChoice[] = ['keepAsEvent', 'toNearestDate', 'drop'];
const SHOWN = 4;

interface Props {
  id: string;
  input: EditInput;
  choices: Choices;
  onChoices: (choices: Choices) => void;
  /** Tells whether everything that has to be decided is. */
  onDecided: (decided: boolean) => void;
}

/** What an edit of a series would do, before it is saved; changes that fit no more are decided here. */
export const EditPlan = ({ id, input, choices, onChoices, onDecided }: Props) => {
  const { t, language } = useTexts();
  const request = useDebounced(JSON.stringify({ ...input, choices: [] }), 250);
  const plan = useQuery({
    queryKey: ['plan', id, request],
    queryFn: () => api.planEvent(id, JSON.parse(request) as EditInput),
    placeholderData: keepPreviousData,
    retry: false,
    staleTime: 0,
  });
  const data = plan.data;
  const undecided = data?.misfits.some((m) => !choices[m.change.date]) ?? false;
  useEffect(() => onDecided(!undecided), [undecided, onDecided]);
  // A problem with the fields is told when they are saved, beside the field.
  if (!data || plan.error) return null;

  // What one date becomes stands in its fields already; only where it comes to lie is news.
  if (input.scope === 'thisDate' && data.ontoLeftOut.length === 0) return null;

  const day = (date: string) => shortDay(dayOf(date), language);
  const moment = (date: string, other: string) =>
    date.slice(11) === other.slice(11) ? day(date) : `${day(date)} ${clockText(date, language)}`;
  const some = (dates: string[]) =>
    dates.length <= SHOWN
      ? dates.join(', ')
      : `${dates.slice(0, SHOWN).join(', ')} ${t('edit.more', { count: dates.length - SHOWN })}`;
  const what = (change: Change) =>
    [
      change.title,
      change.place,
      change.timing &&
        (dayOf(change.timing.start) === dayOf(change.date) ? t('edit.newTime') : day(change.timing.start)),
      change.calledOff && t('edit.offWord'),
    ]
      .filter(Boolean)
      .join(', ') || '…';

  return (
    <SheetRow label={t('edit.label')}>
      <ul className="edit-plan" aria-live="polite">
        {data.splits && <li>{t('edit.splits')}</li>}
        {isQuiet(data) && <li>{t('edit.nothing')}</li>}
        {data.moved.length > 0 && (
          <li>
            {t('edit.moved', {
              count: data.moved.length,
              dates: some(
                data.moved.map((m) => t('edit.move', { from: moment(m.from, m.to), to: moment(m.to, m.from) })),
              ),
            })}
          </li>
        )}
        {data.ontoLeftOut.length > 0 && (
          <li className="plan-warning">
            {t('edit.ontoLeftOut', {
              count: data.ontoLeftOut.length,
              dates: some(data.ontoLeftOut.map((m) => day(m.to))),
            })}
          </li>
        )}
        {data.gone.length > 0 && (
          <li>{t('edit.gone', { count: data.gone.length, dates: some(data.gone.map(day)) })}</li>
        )}
        {data.come.length > 0 && (
          <li>{t('edit.come', { count: data.come.length, dates: some(data.come.map(day)) })}</li>
        )}
        {data.keptChanges > 0 && <li>{t('edit.kept', { count: data.keptChanges })}</li>}
        {data.refitted.map((r) => (
          <li key={r.change.date}>
            {t('edit.refitted', { from: day(r.change.date), to: day(r.to ?? r.change.date) })}
          </li>
        ))}
        {data.lostSkips.length > 0 && <li>{t('edit.lostSkips', { dates: some(data.lostSkips.map(day)) })}</li>}
        {data.misfits.map((m) => (
          <li key={m.change.date}>
            {t('edit.misfit', { date: day(m.change.date), what: what(m.change) })}
            <Form.Select
              size="sm"
              aria-label={`${t('edit.choose')} ${day(m.change.date)}`}
              value={choices[m.change.date] ?? ''}
              onChange={(e) => onChoices({ ...choices, [m.change.date]: e.target.value as MisfitChoice })}
            >
              <option value="" disabled>
                {t('edit.undecided')}
              </option>
              {CHOICES.filter((c) => c !== 'toNearestDate' || m.nearest).map((choice) => (
                <option key={choice} value={choice}>
                  {t(`edit.${choice}`, { date: m.nearest ? day(m.nearest) : '' })}
                </option>
              ))}
            </Form.Select>
          </li>
        ))}
      </ul>
    </SheetRow>
  );
};

const isQuiet = (plan: SeriesPlan): boolean =>
  plan.moved.length + plan.gone.length + plan.come.length + plan.misfits.length + plan.refitted.length === 0;
