import Button from 'react-bootstrap/Button';
import type { Calendar, DateVerb, EventData } from '../shared/api/client';
import { dayOf, shortDay } from '../shared/dates';
import { useTexts } from '../shared/i18n';
import { SheetRow } from '../shared/parts/Sheet';
import { changeText, useNames } from './differences';
import './event.scss';

// What differs on a date names no calendar.
const NO_CALENDARS: Calendar[] = [];

interface Props {
  event: EventData;
  busy: boolean;
  onDo: (verb: DateVerb, date: string) => void;
}

interface Done {
  date: string;
  what: string;
  verb: 'put-back' | 'remove-date' | 'call-on' | 'as-others';
}

/** What was done to single dates of a series, each with its way back. */
export const ByHand = ({ event, busy, onDo }: Props) => {
  const { t, language } = useTexts();
  const names = useNames(NO_CALENDARS);
  const day = (date: string) => shortDay(dayOf(date), language);
  const changes = event.changes.flatMap((change): Done[] => {
    const what = changeText(change, names);
    return [
      ...(change.calledOff ? [{ date: change.date, what: t('dates.wasOff'), verb: 'call-on' as const }] : []),
      ...(what ? [{ date: change.date, what: t('dates.wasChanged', { what }), verb: 'as-others' as const }] : []),
    ];
  });
  const all: Done[] = [
    ...event.skips.map((date) => ({ date, what: t('dates.wasSkipped'), verb: 'put-back' as const })),
    ...event.extras.map((date) => ({ date, what: t('dates.wasAdded'), verb: 'remove-date' as const })),
    ...changes,
  ].sort((a, b) => a.date.localeCompare(b.date));
  if (all.length === 0) return null;
  return (
    <SheetRow label={t('dates.byHand')}>
      <ul className="by-hand">
        {all.map(({ date, what, verb }) => (
          <li key={date + verb}>
            <span>
              <strong>{day(date)}</strong> {what}
            </span>
            <Button
              variant="link"
              size="sm"
              disabled={busy}
              aria-label={t('dates.byHandUndo', { what: `${day(date)} ${what}`, verb: t(`dates.verb.${verb}`) })}
              onClick={() => onDo(verb, date)}
            >
              {t(`dates.verb.${verb}`)}
            </Button>
          </li>
        ))}
      </ul>
    </SheetRow>
  );
};
