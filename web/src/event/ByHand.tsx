import Button from 'react-bootstrap/Button';
import type { Change, DateVerb, EventData } from '../shared/api/client';
import { clockText, dayOf, shortDay } from '../shared/dates';
import { useTexts } from '../shared/i18n';
import { SheetRow } from '../shared/parts/Sheet';
import './event.scss';

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

/** What a date has beside of its own, and what of the series' it has not. */
const factsOf = ({ facts }: Change, t: ReturnType<typeof useTexts>['t']): (string | null)[] =>
  facts
    ? [
        facts.subtitle ?? null,
        facts.setsCategory ? t('sheet.fieldName.facts.categoryId') : null,
        ...(facts.tags ?? []).map((tag) => `#${tag}`),
        ...(facts.links ?? []).map((link) => link.label || link.address),
        ...(facts.files ?? []).map((file) => file.name),
        (facts.withoutTags?.length ?? 0) + (facts.withoutLinks?.length ?? 0) + (facts.withoutFiles?.length ?? 0) > 0
          ? t('dates.hasLess')
          : null,
      ]
    : [];

/** What was done to single dates of a series, each with its way back. */
export const ByHand = ({ event, busy, onDo }: Props) => {
  const { t, language } = useTexts();
  const day = (date: string) => shortDay(dayOf(date), language);
  const differs = (change: Change) =>
    [
      change.timing &&
        `${dayOf(change.timing.start) === dayOf(change.date) ? '' : `${day(change.timing.start)} `}${
          change.timing.kind === 'allDay' ? '' : clockText(change.timing.start, language)
        }`.trim(),
      change.title,
      change.place,
      change.description !== null && t('sheet.details'),
      ...factsOf(change, t),
    ]
      .filter(Boolean)
      .join(', ');
  const changes = event.changes.flatMap((change): Done[] => {
    const what = differs(change);
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
