import { memo } from 'react';
import type { Calendar, Occurrence } from '../../shared/api/client';
import { clockText, dayRangeText, longDay } from '../../shared/dates';
import { useTexts } from '../../shared/i18n';
import { markClass, Spine } from '../../shared/parts/Spine';
import { isOnlyProposed, occurrenceKey } from '../../shared/occurrences';
import type { Chosen } from '../selection';
import './entries.scss';

interface Props {
  occurrence: Occurrence;
  calendar: Calendar;
  isChosen: boolean;
  onChoose: (chosen: Chosen) => void;
  /** Whether it is drawn across several days. */
  bar?: boolean;
  /** Whether it is drawn against the clock. */
  clock?: boolean;
  /** Whether its place is told by where it stands: its calendar is then. */
  isByPlace?: boolean;
}

/** An entry: a line of text with a spine. It is drawn anew only when something about it changes. */
export const Entry = memo(({ occurrence, calendar, isChosen, onChoose, bar, clock, isByPlace }: Props) => {
  const { t, language } = useTexts();
  const title = occurrence.title || t('entry.taken');
  const time = occurrence.allDay ? '' : clockText(occurrence.start, language);
  const when = bar
    ? dayRangeText(occurrence.firstDay, occurrence.lastDay, language)
    : `${longDay(occurrence.firstDay, language)}, ${time || t('allDay')}`;
  const note = [
    occurrence.proposed && t(`entry.proposed.${occurrence.proposed}`),
    occurrence.isDraft && t('entry.draft'),
    occurrence.isCalledOff ? t('entry.calledOff') : occurrence.isChanged && t('entry.changed'),
    occurrence.isShortNotice && t('entry.shortNotice'),
  ]
    .filter(Boolean)
    .join(', ');
  const beneath = isByPlace ? calendar.title : occurrence.place;
  return (
    <button
      type="button"
      className={`entry ${markClass(occurrence.mark ?? calendar.mark)}${bar ? ' entry-bar' : ''}${occurrence.isCalledOff ? ' is-off' : ''}${occurrence.isDraft ? ' is-draft' : ''}${isOnlyProposed(occurrence) ? ' is-proposed' : occurrence.proposed ? ' is-going' : ''}`}
      data-entry={occurrenceKey(occurrence)}
      aria-pressed={isChosen}
      aria-label={[title, when, occurrence.place, calendar.title, note].filter(Boolean).join(', ')}
      onClick={() => onChoose({ kind: 'event', occurrence })}
    >
      <Spine />
      <span className="entry-text">
        {time && <span className="entry-time">{time} </span>}
        <span className="entry-title">{title}</span>
        {note && <span className="entry-note"> {note}</span>}
        {beneath && <span className="entry-place">{beneath}</span>}
      </span>
      {(bar || occurrence.allDay || clock) && <span className="entry-stretch" data-stretch aria-hidden="true" />}
    </button>
  );
});

Entry.displayName = 'Entry';
