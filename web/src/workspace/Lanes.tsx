import { useState, type CSSProperties, type KeyboardEvent } from 'react';
import type { Board, Calendar, DayInfo } from '../shared/api/client';
import { addDays, dayHead, dayRange, longDay, weekday, type Day } from '../shared/dates';
import { useTexts } from '../shared/i18n';
import { markClass, Spine } from '../shared/Spine';
import { Entry } from './Entry';
import { isBar, linesOn, occurrenceKey, onDay, packBars } from './layout';
import { LineEntry } from './LineEntry';
import type { Chosen } from './Plan';
import { ReachMark } from './ReachMark';

interface Props {
  data: Board;
  from: Day;
  days: number;
  today: Day;
  chosen: Chosen | null;
  onChoose: (chosen: Chosen) => void;
}

interface Cell {
  calendarId: string;
  day: Day;
}

const groupsOf = (calendars: Calendar[]): [string, Calendar[]][] => {
  const groups = new Map<string, Calendar[]>();
  for (const calendar of calendars) groups.set(calendar.group, [...(groups.get(calendar.group) ?? []), calendar]);
  return [...groups];
};

/** Moves the focus between the cells by arrow keys. */
const moveFocus = (e: KeyboardEvent<HTMLElement>) => {
  const by: Record<string, [number, number]> = {
    ArrowLeft: [-1, 0],
    ArrowRight: [1, 0],
    ArrowUp: [0, -1],
    ArrowDown: [0, 1],
  };
  const step = by[e.key];
  const target = e.target;
  if (!step || !(target instanceof HTMLElement) || !target.dataset.cell) return;
  const [column = 0, row = 0] = target.dataset.cell.split(',').map(Number);
  const next = e.currentTarget.querySelector<HTMLElement>(`[data-cell="${column + step[0]},${row + step[1]}"]`);
  if (next) {
    e.preventDefault();
    next.focus();
  }
};

/** A row a calendar, a column a day. */
export const Lanes = ({ data, from, days, today, chosen, onChoose }: Props) => {
  const { t, language } = useTexts();
  const [typing, setTyping] = useState<Cell | null>(null);
  const shown = dayRange(from, days);
  const info = new Map(data.days.map((day) => [day.date, day]));
  const visible = data.occurrences.filter((o) => o.lastDay >= from && o.firstDay < addDays(from, days));
  // A weekend with nothing on takes little room.
  const isQuiet = (day: Day) =>
    weekday(day) > 5 &&
    days > 3 &&
    typing?.day !== day &&
    !visible.some((o) => o.firstDay <= day && day <= o.lastDay && !isBar(o));
  const columns = shown.map((day) => (isQuiet(day) ? 'minmax(66px, 0.3fr)' : 'minmax(112px, 1fr)')).join(' ');
  const dayClass = (day: Day) =>
    [day === today && 'is-today', info.get(day)?.closure && 'is-closed', weekday(day) > 5 && 'is-weekend']
      .filter(Boolean)
      .join(' ');
  let row = -1;

  return (
    <div
      className="board lanes"
      style={{ '--columns': columns, '--days': days } as CSSProperties}
      onKeyDown={moveFocus}
    >
      <div className="lane lane-heads">
        <div className="lane-head">
          <span className="quiet">{t('lanes.calendars')}</span>
          <button type="button" className="btn btn-link p-0" onClick={() => onChoose({ kind: 'new-calendar' })}>
            {t('lanes.add')}
          </button>
        </div>
        {shown.map((day) => (
          <DayHead key={day} day={day} info={info.get(day)} className={dayClass(day)} quiet={isQuiet(day)} />
        ))}
      </div>
      {data.calendars.length === 0 && (
        <div className="board-empty">
          <p>{t('lanes.empty')}</p>
          <button type="button" className="btn btn-primary" onClick={() => onChoose({ kind: 'new-calendar' })}>
            {t('lanes.first')}
          </button>
        </div>
      )}
      {groupsOf(data.calendars).map(([group, calendars]) => (
        <section key={group} aria-label={group || t('lanes.calendars')}>
          {group && <h2 className="lane-group">{group}</h2>}
          {calendars.map((calendar) => {
            const own = visible.filter((o) => o.calendarId === calendar.id);
            const bars = packBars(own, from, days);
            row++;
            return (
              <div key={calendar.id} role="group" aria-label={calendar.title} className="lane">
                <div className={`lane-head ${markClass(calendar.mark)}`}>
                  <Spine />
                  <button
                    type="button"
                    className="lane-name"
                    aria-pressed={chosen?.kind === 'calendar' && chosen.id === calendar.id}
                    onClick={() => onChoose({ kind: 'calendar', id: calendar.id })}
                  >
                    {calendar.title}
                    <ReachMark reach={calendar.reach} />
                  </button>
                </div>
                {shown.map((day, column) => (
                  <div
                    key={day}
                    className={`cell ${dayClass(day)}`}
                    style={
                      {
                        gridColumn: `calc(${column + 1} + var(--head-columns))`,
                        '--lines': linesOn(bars, column),
                      } as CSSProperties
                    }
                  >
                    <button
                      type="button"
                      className="cell-add"
                      data-cell={`${column},${row}`}
                      aria-label={t('lanes.addOn', { calendar: calendar.title, day: longDay(day, language) })}
                      onClick={() => setTyping({ calendarId: calendar.id, day })}
                    />
                    {onDay(own, day).map((o) => (
                      <Entry
                        key={occurrenceKey(o)}
                        occurrence={o}
                        calendar={calendar}
                        chosen={chosen}
                        onChoose={onChoose}
                      />
                    ))}
                    {typing?.calendarId === calendar.id && typing.day === day && (
                      <LineEntry
                        calendar={calendar}
                        day={day}
                        alignEnd={column > days / 2}
                        onClose={() => setTyping(null)}
                        onMore={(draft) => {
                          setTyping(null);
                          onChoose({ kind: 'new-event', draft });
                        }}
                      />
                    )}
                  </div>
                ))}
                {bars.map((bar) => (
                  <div
                    key={occurrenceKey(bar.occurrence)}
                    className={`bar-place${bar.before ? ' from-before' : ''}${bar.after ? ' goes-on' : ''}`}
                    style={
                      {
                        gridColumn: `calc(${bar.first + 1} + var(--head-columns)) / calc(${bar.last + 2} + var(--head-columns))`,
                        '--line': bar.line,
                      } as CSSProperties
                    }
                  >
                    <Entry occurrence={bar.occurrence} calendar={calendar} chosen={chosen} onChoose={onChoose} bar />
                  </div>
                ))}
              </div>
            );
          })}
        </section>
      ))}
    </div>
  );
};

const DayHead = ({ day, info, className, quiet }: { day: Day; info?: DayInfo; className: string; quiet: boolean }) => {
  const { t, language } = useTexts();
  const note = info?.closure ?? (info?.cycleDay ? t('lanes.cycleDay', { day: info.cycleDay }) : '');
  return (
    <div className={`day-head ${className}`} title={info?.closure ?? undefined}>
      <span className="day-name">{dayHead(day, language)}</span> {!quiet && <span className="day-note">{note}</span>}
    </div>
  );
};
