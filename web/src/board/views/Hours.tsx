import { useEffect, useLayoutEffect, useRef, useState, type CSSProperties } from 'react';
import type { Occurrence } from '../../shared/api/client';
import { clockNow, clockText, dayRange, longDay, minutesAhead, weekday, zoneCity, type Day } from '../../shared/dates';
import { isChosen } from '../selection';
import { useTexts } from '../../shared/i18n';
import { BarPlace } from './BarPlace';
import { seenIn } from './seenIn';
import type { BoardProps } from '../boardProps';
import { DayHead } from './DayHead';
import { DayTyping, type Typing } from '../entry/DayTyping';
import { Entry } from './Entry';
import { packBars, packHours } from './layout';
import { isLong, isOnlyProposed, occurrenceKey } from '../../shared/occurrences';
import { mayEdit } from '../../shared/data/rights';
import { NO_SHIFT } from '../gestures/shift';
import { useBoardHands } from '../gestures/useBoardHands';
import { CLOCK_STEP, clockOfPlace } from '../gestures/useDrag';
import './hours.scss';

const HOURS = Array.from({ length: 24 }, (_, i) => i);
const FIRST_SHOWN = 7 * 60 + 30;

/** One to seven days against the clock. */
export const Hours = ({ data, calendars, from, days, today, chosen, onChoose }: BoardProps) => {
  const { t, language } = useTexts();
  const board = useRef<HTMLDivElement>(null);
  const clockFace = useRef<HTMLDivElement>(null);
  const [typing, setTyping] = useState<Typing | null>(null);
  const [now, setNow] = useState(() => clockNow(data.zone));
  const shown = dayRange(from, days);
  const info = new Map(data.days.map((day) => [day.date, day]));
  const { seen: visible, calendarOf } = seenIn(data.occurrences, calendars, from, days);
  const bars = packBars(visible.filter(isLong), from, days, true);
  const lines = bars.reduce((most, bar) => Math.max(most, bar.line + 1), 0);
  // The clock of whoever looks, where it shows another time than the school's.
  const ownZone = Intl.DateTimeFormat().resolvedOptions().timeZone;
  const ahead = minutesAhead(ownZone, data.zone, from);
  // A weekend with nothing on takes little room, as in lanes.
  const isQuiet = (day: Day) =>
    weekday(day) > 5 &&
    days > 3 &&
    typing?.day !== day &&
    !visible.some((o) => !isLong(o) && o.firstDay <= day && day <= o.lastDay);
  const columns = shown
    .map((day) => (isQuiet(day) ? 'minmax(66px, 0.3fr)' : 'minmax(var(--day-least), 1fr)'))
    .join(' ');
  const hands = useBoardHands({
    board,
    calendars,
    // What one may only read stays where it is.
    occurrences: visible.filter(
      (o) => !isOnlyProposed(o) && mayEdit(data.calendars.find((c) => c.id === o.calendarId)),
    ),
    chosen,
    onChoose,
    onDraw: (first, last) =>
      setTyping(
        first.minute !== null && last.minute !== null && first.day === last.day
          ? {
              day: first.day,
              clock: {
                zone: data.zone,
                from: clockOfPlace(first),
                to: clockOfPlace({ ...last, minute: Math.min(last.minute + CLOCK_STEP, 1439) }),
              },
              calendar: null,
            }
          : { day: first.day, lastDay: last.day, calendar: null },
      ),
    step: (key, o) => {
      const sideways = key === 'ArrowRight' ? 1 : key === 'ArrowLeft' ? -1 : 0;
      if (sideways) return { ...NO_SHIFT, days: sideways };
      const later = key === 'ArrowDown' ? 1 : key === 'ArrowUp' ? -1 : 0;
      return later && !o.allDay ? { ...NO_SHIFT, minutes: later * CLOCK_STEP } : null;
    },
  });

  useEffect(() => {
    const timer = setInterval(() => setNow(clockNow(data.zone)), 30_000);
    return () => clearInterval(timer);
  }, [data.zone]);

  // It opens where the day's work begins.
  const earliest = visible.filter((o) => !isLong(o)).reduce((least, o) => Math.min(least, minutesOf(o)), FIRST_SHOWN);
  const opensAt = useRef(earliest);
  useLayoutEffect(() => {
    const face = clockFace.current;
    const box = board.current;
    if (face && box) box.scrollTop = (face.offsetHeight / 1440) * Math.max(0, opensAt.current - 30);
  }, []);

  const columnClass = (day: Day) =>
    [
      'hours-column',
      day === today && 'is-today',
      info.get(day)?.closure && 'is-closed',
      weekday(day) > 5 && 'is-weekend',
    ]
      .filter(Boolean)
      .join(' ');
  const typingOn = (day: Day, column: number) =>
    typing?.day === day && (
      <DayTyping
        typing={typing}
        calendars={calendars}
        alignEnd={column >= days / 2}
        onTyping={setTyping}
        onMore={(draft) => onChoose({ kind: 'new-event', draft })}
        onLines={(calendar, lines) => onChoose({ kind: 'lines', calendarId: calendar.id, day, lines })}
      />
    );

  return (
    <div
      className="board hours"
      ref={board}
      style={
        { '--day-columns': columns, '--days': shown.length, '--head-columns': ahead === 0 ? 1 : 2 } as CSSProperties
      }
      {...hands.handlers}
    >
      <div className="hours-heads">
        {ahead !== 0 && <span className="hours-zone">{zoneCity(ownZone)}</span>}
        <span className="hours-zone">{zoneCity(data.zone)}</span>
        {shown.map((day) => (
          <DayHead
            key={day}
            day={day}
            info={info.get(day)}
            className={day === today ? 'is-today' : ''}
            quiet={isQuiet(day)}
          />
        ))}
        <div className="hours-edge quiet" style={{ gridRow: 2 }}>
          {t('allDay')}
        </div>
        {shown.map((day, column) => (
          <div
            key={day}
            data-day={day}
            className={`cell ${columnClass(day)}`}
            style={
              {
                gridRow: 2,
                gridColumn: `calc(${column + 1} + var(--head-columns))`,
                '--lines': lines,
              } as CSSProperties
            }
          >
            <button
              type="button"
              className="cell-add"
              aria-label={t('month.addOn', { day: longDay(day, language) })}
              onClick={() => setTyping({ day, calendar: null })}
            />
            {typing && !typing.clock && typingOn(day, column)}
          </div>
        ))}
        {bars.map((bar) => (
          <BarPlace
            key={occurrenceKey(bar.occurrence)}
            bar={bar}
            calendar={calendarOf(bar.occurrence)}
            chosen={chosen}
            onChoose={onChoose}
          />
        ))}
      </div>
      <div className="hours-face" ref={clockFace}>
        {ahead !== 0 && <Edge ahead={ahead} />}
        <Edge ahead={0} />
        {shown.map((day, column) => (
          <div key={day} data-day={day} data-clock="" className={columnClass(day)}>
            <button
              type="button"
              className="cell-add"
              aria-label={t('hours.addOn', { day: longDay(day, language) })}
              onClick={(e) => {
                // By keys it is the morning; by mouse the hour under it.
                const box = e.currentTarget.getBoundingClientRect();
                const hour = e.detail === 0 ? 9 : Math.floor(((e.clientY - box.top) / box.height) * 24);
                const clock = { from: clockOf(hour), to: clockOf(Math.min(hour + 1, 23), hour === 23) };
                setTyping({ day, clock, calendar: null });
              }}
            />
            {packHours(visible, day).map(({ occurrence, from: start, to, column: at, columns }) => {
              const calendar = calendarOf(occurrence);
              return (
                calendar && (
                  <div
                    key={occurrenceKey(occurrence)}
                    className={`hours-entry${to - start < 45 ? ' is-short' : ''}${columns > 1 ? ' is-beside' : ''}${at > 0 && at + 1 === columns ? ' is-last' : ''}`}
                    style={
                      {
                        '--start': start,
                        '--length': Math.max(to - start, 22),
                        '--at': at,
                        '--of': columns,
                      } as CSSProperties
                    }
                  >
                    <Entry
                      occurrence={occurrence}
                      calendar={calendar}
                      isChosen={isChosen(chosen, occurrence)}
                      onChoose={onChoose}
                      clock
                    />
                  </div>
                )
              );
            })}
            {day === now.day && (
              <div className="hours-now" style={{ '--start': now.minute } as CSSProperties}>
                <span className="visually-hidden">{t('hours.now', { time: clockText(now.time, language) })}</span>
              </div>
            )}
            {typing?.clock && (
              <div className="hours-typing" style={{ '--start': minutes(typing.clock.from) } as CSSProperties}>
                {typingOn(day, column)}
              </div>
            )}
          </div>
        ))}
      </div>
      {hands.ghost}
    </div>
  );
};

const minutes = (clock: string): number => Number(clock.slice(0, 2)) * 60 + Number(clock.slice(3, 5));
const minutesOf = (o: Occurrence): number => minutes(o.start.slice(11, 16));
const clockOf = (hour: number, isEnd = false): string => `${String(hour).padStart(2, '0')}:${isEnd ? '59' : '00'}`;

/** The hours down the side, as many minutes ahead of the board's. */
const Edge = ({ ahead }: { ahead: number }) => {
  const { language } = useTexts();
  return (
    <div className="hours-edge" aria-hidden="true">
      {HOURS.map((hour) => {
        const total = (((hour * 60 + ahead) % 1440) + 1440) % 1440;
        const clock = `${String(Math.floor(total / 60)).padStart(2, '0')}:${String(total % 60).padStart(2, '0')}`;
        return <span key={hour}>{hour > 0 && clockText(`2000-01-01T${clock}:00`, language)}</span>;
      })}
    </div>
  );
};
