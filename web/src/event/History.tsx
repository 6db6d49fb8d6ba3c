import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import Button from 'react-bootstrap/Button';
import { api, asProblem, type Calendar, type EventData } from '../shared/api/client';
import { dayOf, formatMoment, shortDay } from '../shared/dates';
import { useTexts } from '../shared/i18n';
import { Told } from '../shared/parts/Told';
import { useActions } from '../shared/data/actions';
import { dateDifferences, differences, useNames } from './differences';
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
  const names = useNames(calendars);
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
              {entry.before && entry.after && (
                <>
                  {differences(entry.before, entry.after, names).map(({ field, was, is }) => (
                    <span key={field}>
                      {t(`sheet.fieldName.${field}`)}: {was || t('sheet.nothing')} → {is || t('sheet.nothing')}
                    </span>
                  ))}
                  {dateDifferences(entry.before, entry.after, names).map(({ kind, date, what }) => (
                    <span key={`${kind} ${date}`}>
                      {shortDay(dayOf(date), language)}: {t(`dates.became.${kind}`)}
                      {what && ` – ${what}`}
                    </span>
                  ))}
                </>
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
