import type { DayInfo } from '../../shared/api/client';
import { dayHead, type Day } from '../../shared/dates';
import { useTexts } from '../../shared/i18n';

interface Props {
  day: Day;
  info?: DayInfo;
  className: string;
  /** Whether there is no room for more than the day. */
  quiet: boolean;
}

/** The head of a day's column: weekday, date, cycle day or closure. */
export const DayHead = ({ day, info, className, quiet }: Props) => {
  const { t, language } = useTexts();
  const note = info?.closure ?? (info?.cycleDay ? t('lanes.cycleDay', { day: info.cycleDay }) : '');
  return (
    <div className={`day-head ${className}`} title={info?.closure ?? undefined}>
      <span className="day-name">{dayHead(day, language)}</span> {!quiet && <span className="day-note">{note}</span>}
    </div>
  );
};
