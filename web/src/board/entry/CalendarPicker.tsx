import { useEffect, useRef } from 'react';
import type { Calendar } from '../../shared/api/client';
import { useTexts } from '../../shared/i18n';
import { markClass, Spine } from '../../shared/parts/Spine';
import { mayEdit, mayOffer } from '../../shared/data/rights';
import './entry.scss';

interface Props {
  calendars: Calendar[];
  title: string;
  alignEnd?: boolean;
  onPick: (calendar: Calendar) => void;
  onClose: () => void;
}

/** Asks which calendar, every time: none is ever taken over from before. */
export const CalendarPicker = ({ calendars, title, alignEnd, onPick, onClose }: Props) => {
  const { t } = useTexts();
  const box = useRef<HTMLDivElement>(null);
  useEffect(() => box.current?.querySelector('button')?.focus(), []);
  return (
    <div
      ref={box}
      role="group"
      aria-label={title}
      className={`line-entry calendar-picker${alignEnd ? ' align-end' : ''}`}
      onKeyDown={(e) => {
        const buttons = [...(box.current?.querySelectorAll('button') ?? [])];
        const at = buttons.indexOf(document.activeElement as HTMLButtonElement);
        if (e.key === 'ArrowDown') buttons[at + 1]?.focus();
        else if (e.key === 'ArrowUp') buttons[at - 1]?.focus();
        else if (e.key === 'Escape') onClose();
        else return;
        e.preventDefault();
        e.stopPropagation();
      }}
      onBlur={(e) => {
        if (!e.currentTarget.contains(e.relatedTarget)) onClose();
      }}
    >
      <p className="line-entry-where">{title}</p>
      {calendars.filter(mayOffer).map((calendar) => (
        <button
          key={calendar.id}
          type="button"
          className={`picker-item ${markClass(calendar.mark)}`}
          onClick={() => onPick(calendar)}
        >
          <Spine />
          {calendar.title}
          {!mayEdit(calendar) && <span className="quiet"> {t('proposal.asks1')}</span>}
        </button>
      ))}
    </div>
  );
};
