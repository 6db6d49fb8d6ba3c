import type { Calendar } from '../../shared/api/client';
import { longDay, type Day } from '../../shared/dates';
import { useTexts } from '../../shared/i18n';
import { CalendarPicker } from './CalendarPicker';
import type { EventDraft } from '../../event/draft/draft';
import { LineEntry, type Where } from './LineEntry';

/** Something is being typed on days that are not one calendar's. */
export interface Typing {
  day: Day;
  lastDay?: Day;
  clock?: Where['clock'];
  /** Null until one is picked. */
  calendar: Calendar | null;
}

interface Props {
  typing: Typing;
  calendars: Calendar[];
  alignEnd: boolean;
  onTyping: (typing: Typing | null) => void;
  onMore: (draft: EventDraft) => void;
  onLines: (calendar: Calendar, lines: string[]) => void;
}

/** Asks for the calendar, then takes the line. */
export const DayTyping = ({ typing, calendars, alignEnd, onTyping, onMore, onLines }: Props) => {
  const { t, language } = useTexts();
  const { calendar, ...where } = typing;
  const close = () => onTyping(null);
  return calendar ? (
    <LineEntry
      {...where}
      calendar={calendar}
      alignEnd={alignEnd}
      onClose={close}
      onMore={(draft) => {
        close();
        onMore(draft);
      }}
      onLines={(lines) => {
        close();
        onLines(calendar, lines);
      }}
    />
  ) : (
    <CalendarPicker
      calendars={calendars}
      title={t('month.which', { day: longDay(typing.day, language) })}
      alignEnd={alignEnd}
      onPick={(picked) => onTyping({ ...typing, calendar: picked })}
      onClose={close}
    />
  );
};
