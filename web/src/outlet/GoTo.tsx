import { useContext, useState } from 'react';
import { addDays, addMonths, dayRange, firstOfMonth, weekday } from '../shared/dates';
import { OutletContext, weekOf } from './model';
import { useEscape } from './parts';

interface Props {
  day: string;
  onGo: (day: string) => void;
}

/** Any day, by a small month; where fingers choose, by the device's own way behind the same face. */
export const GoTo = ({ day, onGo }: Props) => {
  const { texts } = useContext(OutletContext);
  const [isOpen, setOpen] = useState(false);
  if (matchMedia('(pointer: coarse)').matches)
    return (
      <label className="go-to">
        {texts.goTo}
        <input
          type="date"
          aria-label={texts.goTo}
          value={day}
          onChange={(e) => e.currentTarget.value && onGo(e.currentTarget.value)}
        />
      </label>
    );
  return (
    <span className="go-to">
      <button type="button" aria-expanded={isOpen} onClick={() => setOpen(!isOpen)}>
        {texts.goTo}
      </button>
      {isOpen && (
        <Days
          day={day}
          onGo={(to) => {
            onGo(to);
            setOpen(false);
          }}
          onClose={() => setOpen(false)}
        />
      )}
    </span>
  );
};

const Days = ({ day, onGo, onClose }: Props & { onClose: () => void }) => {
  const { start, texts, words } = useContext(OutletContext);
  const [month, setMonth] = useState(firstOfMonth(day));
  useEscape(onClose);
  const first = weekOf(month, start.look.weekStart);
  const end = addDays(weekOf(addDays(addMonths(month, 1), -1), start.look.weekStart), 7);
  const weeks = [];
  for (let week = first; week < end; week = addDays(week, 7)) weeks.push(week);
  return (
    <div className="card day-pick" role="dialog" aria-label={texts.goTo}>
      <div className="travel">
        <button type="button" aria-label={texts.monthBefore} onClick={() => setMonth(addMonths(month, -1))}>
          <span aria-hidden="true">‹</span>
        </button>
        <h3 aria-live="polite">{words.monthName(month)}</h3>
        <button type="button" aria-label={texts.monthAfter} onClick={() => setMonth(addMonths(month, 1))}>
          <span aria-hidden="true">›</span>
        </button>
      </div>
      <div className="small-month">
        <div className="week heads" aria-hidden="true">
          {dayRange(first, 7).map((d) => (
            <span key={d}>{texts.weekdaysNarrow[weekday(d) - 1]}</span>
          ))}
        </div>
        {weeks.map((week) => (
          <div key={week} className="week">
            {dayRange(week, 7).map((d) => (
              <button
                key={d}
                type="button"
                className={`${d.startsWith(month.slice(0, 7)) ? '' : 'is-other'}${d === start.today ? ' is-today' : ''}`}
                aria-label={words.day(d)}
                aria-pressed={d === day}
                onClick={() => onGo(d)}
              >
                {Number(d.slice(8))}
              </button>
            ))}
          </div>
        ))}
      </div>
    </div>
  );
};
