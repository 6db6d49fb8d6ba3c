import type { Calendar, Clash } from './api/client';
import { clockText, dayOf, shortDay } from './dates';
import { useTexts } from './i18n';

interface Props {
  clash: Clash;
  calendars: Calendar[];
  /** The event it is told beside: it is not named itself. */
  beside?: string;
}

const SHOWN = 3;

/** What does not go together, as a sentence. */
export const useClashText = () => {
  const { t, language } = useTexts();
  return ({ clash, calendars, beside }: Props): string => {
    const calendarOf = (id: string | null) => calendars.find((c) => c.id === id)?.title ?? '';
    const other = clash.other && clash.event.eventId === beside ? clash.other : clash.event;
    const shown = clash.dates.slice(0, SHOWN).map((day) => shortDay(day, language));
    if (clash.dates.length > SHOWN) shown.push(t('edit.more', { count: clash.dates.length - SHOWN }));
    const time = clash.start.endsWith('T00:00:00') ? '' : ` ${clockText(clash.start, language)}`;
    const key = beside === undefined ? (`clash.${clash.kind}` as const) : (`clash.beside.${clash.kind}` as const);
    return t(key, {
      title: clash.event.title,
      calendar: calendarOf(clash.kind === 'tooManyTests' ? clash.calendarId : clash.event.calendarId),
      other: (beside === undefined ? clash.other?.title : other.title) ?? '',
      otherCalendar: calendarOf(beside === undefined ? (clash.other?.calendarId ?? null) : other.calendarId),
      about: clash.about,
      when: `${shown.join(', ')}${clash.dates.length === 1 ? time : ''}`,
    });
  };
};

/** The day on which to look at it. */
export const dayOfClash = (clash: Clash): string => clash.dates[0] ?? dayOf(clash.start);
