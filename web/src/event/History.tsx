import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import Button from 'react-bootstrap/Button';
import { api, asProblem, type Calendar, type EventData } from '../shared/api/client';
import { formatMoment } from '../shared/dates';
import { useTexts } from '../shared/i18n';
import { Told } from '../shared/parts/Told';
import { useActions } from '../shared/data/actions';
import { draftOf, type EventDraft } from './draft/draft';
import { inputOf } from '../shared/data/actions';
import { plainText, valueText } from './plainText';
import { SheetRow } from '../shared/parts/Sheet';
import './event.scss';

interface Props {
  event: EventData;
  calendars: Calendar[];
  busy: boolean;
}

/** Who changed what and when, each with the way back to how it was before. */
export const History = ({ event, calendars, busy }: Props) => {
  const { t, language } = useTexts();
  const actions = useActions();
  const [open, setOpen] = useState(false);
  const history = useQuery({
    queryKey: ['event', event.id, 'history', event.version],
    queryFn: () => api.history(event.id),
    enabled: open,
  });
  const when = (at: string) => formatMoment(at, language);
  return (
    <SheetRow label={t('history.label')}>
      <details open={open} onToggle={(e) => setOpen(e.currentTarget.open)}>
        <summary>{t('history.show')}</summary>
        {history.error && <Told problem={asProblem(history.error)} />}
        <ul className="history">
          {history.data?.map((entry) => (
            <li key={entry.id}>
              <span className="quiet">
                {when(entry.at)} · {entry.person ?? t('history.nobody')}
              </span>
              <strong>{t(`history.action.${actionKey(entry.action)}`)}</strong>
              {(entry.before && entry.after ? differences(entry.before, entry.after, calendars) : []).map(
                ({ field, was, is }) => (
                  <span key={field}>
                    {t(`sheet.fieldName.${field}`)}: {was || t('sheet.nothing')} → {is || t('sheet.nothing')}
                  </span>
                ),
              )}
              {entry.before && (
                <Button
                  variant="link"
                  size="sm"
                  disabled={busy}
                  aria-label={t('history.putBackAt', { at: when(entry.at) })}
                  onClick={() => entry.before && void actions.putBack(event, entry.before)}
                >
                  {t('history.putBack')}
                </Button>
              )}
            </li>
          ))}
        </ul>
      </details>
    </SheetRow>
  );
};

const ACTIONS = {
  create: 'create',
  change: 'change',
  'change many': 'change',
  undo: 'undo',
  redo: 'redo',
  'call off': 'callOff',
  'call on': 'callOn',
  'leave out': 'leaveOut',
  'put back': 'putBack',
  'add date': 'addDate',
  bin: 'delete',
  restore: 'restore',
  'school year': 'schoolYear',
  approve: 'approve',
  reopen: 'reopen',
} as const;

const actionKey = (action: string) => (action in ACTIONS ? ACTIONS[action as keyof typeof ACTIONS] : 'change');

type Named = Exclude<keyof EventDraft, 'facts'> | `facts.${keyof EventDraft['facts']}`;

/** The fields in which two states differ, as people read them. */
export const differences = (
  was: EventData,
  is: EventData,
  calendars: Calendar[],
): { field: Named; was: string; is: string }[] => {
  const [before, after] = [draftOf(inputOf(was)), draftOf(inputOf(is))];
  const text = (value: unknown) => valueText(value, (id) => calendars.find((c) => c.id === id)?.title);
  const changed = <T extends object>(was: T, is: T, prefix: string) =>
    (Object.keys(was) as (keyof T & string)[])
      .filter((key) => key !== 'facts' && JSON.stringify(was[key]) !== JSON.stringify(is[key]))
      .map((key) => {
        // What was formatted is told as plain text.
        const said = (value: unknown) => (key === 'description' ? plainText(text(value)) : text(value));
        return { field: `${prefix}${key}` as Named, was: said(was[key]), is: said(is[key]) };
      });
  return [...changed(before, after, ''), ...changed(before.facts, after.facts, 'facts.')];
};
