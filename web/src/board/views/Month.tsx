import { useQuery, useQueryClient } from '@tanstack/react-query';
import { useEffect, useLayoutEffect, useMemo, useRef, useState, type CSSProperties } from 'react';
import { api, type Board, type Calendar, type DayInfo, type Occurrence } from '../../shared/api/client';
import { addDays, dayRange, daysBetween, formatDay, longDay, firstOfWeek, weekday, type Day } from '../../shared/dates';
import { useTexts } from '../../shared/i18n';
import { Entry } from './Entry';
import { BarPlace } from './BarPlace';
import type { BoardProps } from '../boardProps';
import { DayTyping, type Typing } from '../entry/DayTyping';
import { linesOn, onDay, packBars } from './layout';
import { isOnlyProposed, occurrenceKey } from '../../shared/occurrences';
import { boardKey, useLook } from '../viewAs';
import { mayEdit } from '../../shared/data/rights';
import type { Chosen } from '../selection';
import { NO_SHIFT } from '../../event/draft/shift';
import { useBoardHands } from '../gestures/useBoardHands';
import './month.scss';

interface Props extends Omit<BoardProps, 'data' | 'days'> {
  onTravel: (from: Day) => void;
}

const BLOCK_WEEKS = 5;
const REACH_WEEKS = 60;
const ENTRIES = 5;

// Blocks are counted from one fixed Monday, so that every window asks for the same ones.
const EPOCH: Day = '2000-01-03';
const blockOf = (week: Day): number => Math.floor(daysBetween(EPOCH, week) / (7 * BLOCK_WEEKS));

/** What the sheet has loaded so far, without what lies in two blocks twice. */
const useLoadedOccurrences = (look: string | null): Occurrence[] => {
  const queries = useQueryClient();
  const boards = queries.getQueriesData<Board>({ queryKey: boardKey(look) });
  return [...new Map(boards.flatMap(([, data]) => data?.occurrences ?? []).map((o) => [occurrenceKey(o), o])).values()];
};

/** Weeks under each other in one sheet without an end; each loads as it comes near. */
export const Month = ({ calendars, from, today, chosen, onChoose, onTravel }: Props) => {
  const { language } = useTexts();
  const [typing, setTyping] = useState<Typing | null>(null);
  const loaded = useLoadedOccurrences(useLook());
  const scroller = useRef<HTMLDivElement>(null);
  const hands = useBoardHands({
    board: scroller,
    calendars,
    // What one may only read stays where it is.
    occurrences: loaded.filter((o) => !isOnlyProposed(o) && mayEdit(calendars.find((c) => c.id === o.calendarId))),
    chosen,
    onChoose,
    onDraw: (first, last) => setTyping({ day: first.day, lastDay: last.day, calendar: null }),
    step: (key) => {
      const days = { ArrowRight: 1, ArrowLeft: -1, ArrowDown: 7, ArrowUp: -7 }[key];
      return days ? { ...NO_SHIFT, days } : null;
    },
  });
  const [origin, setOrigin] = useState(() => firstOfWeek(from));
  // Where the sheet stands; it tells the strip only when that changes by scrolling.
  const reached = useRef({ week: '', origin: '' });
  const held = useRef(false);
  const weeks = useMemo(
    () => Array.from({ length: 2 * REACH_WEEKS + 1 }, (_, i) => addDays(origin, 7 * (i - REACH_WEEKS))),
    [origin],
  );

  // The strip, the field for dates or a link moved the window: go there, from a new middle when it is far.
  const target = firstOfWeek(from);
  if (Math.abs(daysBetween(origin, target)) > 7 * (REACH_WEEKS - 10)) setOrigin(target);
  useLayoutEffect(() => {
    const box = scroller.current;
    const sheet = box?.firstElementChild;
    if (!box || !sheet) return;
    const align = () => {
      const row = box.querySelector<HTMLElement>(`[data-week="${target}"]`);
      const heads = box.querySelector<HTMLElement>('.month-heads');
      if (row) box.scrollTop = row.offsetTop - (heads?.offsetHeight ?? 0);
    };
    if (target !== reached.current.week || origin !== reached.current.origin) {
      reached.current = { week: target, origin };
      held.current = true;
      align();
    }
    // Weeks above grow as they load; until a person takes the sheet in hand it stays where it was sent.
    const observer = new ResizeObserver(() => held.current && align());
    observer.observe(sheet);
    return () => observer.disconnect();
  }, [target, origin]);

  const onScroll = () => {
    const box = scroller.current;
    if (!box || held.current) return;
    const rows = box.querySelectorAll<HTMLElement>('[data-week]');
    let low = 0;
    let high = rows.length - 1;
    while (low < high) {
      const middle = (low + high) >> 1;
      const row = rows[middle];
      if (row && row.offsetTop + row.offsetHeight / 2 < box.scrollTop + 32) low = middle + 1;
      else high = middle;
    }
    const week = rows[low]?.dataset.week;
    if (week && week !== reached.current.week) {
      reached.current.week = week;
      onTravel(week);
    }
  };

  const release = () => {
    held.current = false;
  };

  return (
    <div
      className={`board month${hands.drag ? ' is-dragging' : ''}`}
      ref={scroller}
      {...hands.handlers}
      onScroll={onScroll}
      onWheel={release}
      onPointerDown={(e) => {
        release();
        hands.handlers.onPointerDown(e);
      }}
      onKeyDown={(e) => {
        release();
        hands.handlers.onKeyDown(e);
      }}
      onTouchMove={release}
      tabIndex={-1}
    >
      <div>
        <div className="month-heads">
          <span />
          {dayRange(origin, 7).map((day) => (
            <span key={day}>{formatDay(day, language, { weekday: 'short' }).replace('.', '')}</span>
          ))}
        </div>
        {weeks.map((week) => (
          <Week
            key={week}
            week={week}
            calendars={calendars}
            today={today}
            chosen={chosen}
            onChoose={onChoose}
            typing={typing}
            onTyping={setTyping}
            root={scroller}
          />
        ))}
      </div>
      {hands.ghost}
    </div>
  );
};

interface WeekProps {
  week: Day;
  calendars: Calendar[];
  today: Day;
  chosen: Chosen | null;
  onChoose: (chosen: Chosen) => void;
  typing: Typing | null;
  onTyping: (typing: Typing | null) => void;
  root: React.RefObject<HTMLDivElement | null>;
}

const Week = ({ week, calendars, today, chosen, onChoose, typing, onTyping, root }: WeekProps) => {
  const { t, language } = useTexts();
  const element = useRef<HTMLDivElement>(null);
  const [near, setNear] = useState(false);
  useEffect(() => {
    if (!element.current) return;
    const observer = new IntersectionObserver((entries) => setNear(entries.some((e) => e.isIntersecting)), {
      root: root.current,
      rootMargin: '600px 0px',
    });
    observer.observe(element.current);
    return () => observer.disconnect();
  }, [root]);

  const block = blockOf(week);
  const from = addDays(EPOCH, block * 7 * BLOCK_WEEKS);
  const look = useLook();
  const board = useQuery({
    queryKey: [...boardKey(look), from, addDays(from, 7 * BLOCK_WEEKS)],
    queryFn: () => api.board(from, addDays(from, 7 * BLOCK_WEEKS), look),
    enabled: near,
  });
  const days = dayRange(week, 7);
  const data = near ? board.data : undefined;
  const info = new Map(data?.days.map((day) => [day.date, day]));
  const taught = days.map((day) => info.get(day)).find((day) => day?.teachingWeek);
  const opensMonth = days.find((day) => day.endsWith('-01'));
  return (
    <div ref={element} className={`week${days.includes(today) ? ' is-this-week' : ''}`} data-week={week}>
      <div className="week-edge">
        {opensMonth && <span className="week-month">{formatDay(opensMonth, language, { month: 'long' })}</span>}
        {taught && (
          <span className="quiet">
            {t('month.week', { week: taught.teachingWeek })} {taught.weekLetter}
          </span>
        )}
      </div>
      <WeekDays
        days={days}
        occurrences={data?.occurrences ?? []}
        info={info}
        calendars={calendars}
        today={today}
        chosen={chosen}
        onChoose={onChoose}
        typing={typing && days.includes(typing.day) ? typing : null}
        onTyping={onTyping}
      />
    </div>
  );
};

interface WeekDaysProps extends Omit<WeekProps, 'week' | 'root'> {
  days: Day[];
  occurrences: Occurrence[];
  info: Map<Day, DayInfo>;
}

const WeekDays = ({
  days,
  occurrences,
  info,
  calendars,
  today,
  chosen,
  onChoose,
  typing,
  onTyping: setTyping,
}: WeekDaysProps) => {
  const { t, language } = useTexts();
  const [opened, setOpened] = useState<Day | null>(null);
  const byId = new Map(calendars.map((c) => [c.id, c]));
  const bars = packBars(occurrences, days[0] ?? '', 7);
  return (
    <>
      {days.map((day, column) => {
        const own = onDay(occurrences, day);
        const shown = opened === day || own.length <= ENTRIES ? own : own.slice(0, ENTRIES - 1);
        const closure = info.get(day)?.closure;
        const classes = [
          'cell',
          day === today && 'is-today',
          closure && 'is-closed',
          weekday(day) > 5 && 'is-weekend',
          Number(day.slice(5, 7)) % 2 && 'odd-month',
        ];
        return (
          <div
            key={day}
            data-day={day}
            className={classes.filter(Boolean).join(' ')}
            style={{ gridColumn: column + 2 }}
          >
            <button
              type="button"
              className="cell-add"
              aria-label={t('month.addOn', { day: longDay(day, language) })}
              onClick={() => setTyping({ day, calendar: null })}
            />
            <p className="cell-date">
              <span className="day-number">{Number(day.slice(8))}</span>
              {day.endsWith('-01') && ` ${formatDay(day, language, { month: 'short' })}`}
              {info.get(day)?.cycleDay && (
                <span className="day-note">{t('lanes.cycleDay', { day: info.get(day)?.cycleDay })}</span>
              )}
            </p>
            <div className="bar-room" style={{ '--lines': linesOn(bars, column) } as CSSProperties} />
            {shown.map((o) => {
              const calendar = byId.get(o.calendarId);
              return (
                calendar && (
                  <Entry
                    key={occurrenceKey(o)}
                    occurrence={o}
                    calendar={calendar}
                    chosen={chosen}
                    onChoose={onChoose}
                  />
                )
              );
            })}
            {own.length > shown.length && (
              <button type="button" className="cell-more" onClick={() => setOpened(day)}>
                {t('month.more', { count: own.length - shown.length })}
              </button>
            )}
            {opened === day && (
              <button type="button" className="cell-more" onClick={() => setOpened(null)}>
                {t('month.fewer')}
              </button>
            )}
            {typing?.day === day && (
              <DayTyping
                typing={typing}
                calendars={calendars}
                alignEnd={column > 3}
                onTyping={setTyping}
                onMore={(draft) => onChoose({ kind: 'new-event', draft })}
                onLines={(calendar, lines) => onChoose({ kind: 'lines', calendarId: calendar.id, day, lines })}
              />
            )}
          </div>
        );
      })}
      {bars.map((bar) => (
        <BarPlace
          key={occurrenceKey(bar.occurrence)}
          bar={bar}
          calendar={byId.get(bar.occurrence.calendarId)}
          chosen={chosen}
          onChoose={onChoose}
        />
      ))}
    </>
  );
};
