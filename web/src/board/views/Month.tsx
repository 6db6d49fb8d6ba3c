import { useQuery, useQueryClient } from '@tanstack/react-query';
import { useVirtualizer } from '@tanstack/react-virtual';
import { useLayoutEffect, useRef, useState, type CSSProperties } from 'react';
import { api, type Board, type Calendar, type DayInfo, type Occurrence } from '../../shared/api/client';
import { addDays, dayRange, daysBetween, formatDay, longDay, firstOfWeek, weekday, type Day } from '../../shared/dates';
import { useTexts } from '../../shared/i18n';
import { Entry } from './Entry';
import { seenIn } from './seenIn';
import { BarPlace } from './BarPlace';
import type { BoardProps } from '../boardProps';
import { DayTyping, type Typing } from '../entry/DayTyping';
import { linesOn, onDay, packBars } from './layout';
import { isOnlyProposed, occurrenceKey } from '../../shared/occurrences';
import { boardKey, useViewAs } from '../viewAs';
import { mayEdit } from '../../shared/data/rights';
import { isChosen, type Chosen } from '../selection';
import { NO_SHIFT } from '../gestures/shift';
import { usePrinting } from '../usePrinting';
import { useBoardHands } from '../gestures/useBoardHands';
import { MONTH_DAYS } from '../window';
import './month.scss';

interface Props extends Omit<BoardProps, 'data' | 'days'> {
  onTravel: (from: Day) => void;
}

const BLOCK_WEEKS = 5;
/** How far the sheet goes to both sides: some twenty years. */
const REACH_WEEKS = 1040;
const WEEK_HEIGHT = 125;
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
  const loaded = useLoadedOccurrences(useViewAs());
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
  // Weeks are counted from the one the sheet was opened at; no more of them are drawn than are near.
  const [origin] = useState(() => firstOfWeek(from));
  const weekAt = (index: number): Day => addDays(origin, 7 * (index - REACH_WEEKS));
  const indexOf = (week: Day): number => Math.round(daysBetween(origin, week) / 7) + REACH_WEEKS;
  const target = firstOfWeek(from);
  const virtual = useVirtualizer({
    count: 2 * REACH_WEEKS + 1,
    getScrollElement: () => scroller.current,
    estimateSize: () => WEEK_HEIGHT,
    getItemKey: weekAt,
    initialOffset: REACH_WEEKS * WEEK_HEIGHT,
    overscan: 3,
  });
  // Where the sheet stands; it tells the strip only when that changes by scrolling.
  const reached = useRef('');
  const held = useRef(true);
  // On paper there are the weeks of the window and no others, wherever the sheet stands.
  const isPrinting = usePrinting();
  const wasPrinting = useRef(false);
  // The strip, the field for dates or a link moved the window: go there. Weeks above grow as they load; until a person
  // takes the sheet in hand it stays where it was sent.
  const size = virtual.getTotalSize();
  useLayoutEffect(() => {
    if (target !== reached.current) {
      reached.current = target;
      held.current = true;
    }
    if (isPrinting) wasPrinting.current = true;
    else if (held.current) virtual.scrollToIndex(indexOf(target), { align: 'start' });
    else if (wasPrinting.current) virtual.scrollToIndex(indexOf(reached.current), { align: 'start' });
    if (!isPrinting) wasPrinting.current = false;
    // Whatever was measured anew may have moved it.
  }, [target, size, virtual, isPrinting]); // oxlint-disable-line react/exhaustive-deps

  const onScroll = () => {
    const box = scroller.current;
    if (!box || held.current || isPrinting) return;
    // The heads lie over nothing: they stick to the top of what scrolls below them.
    const first = virtual.getVirtualItems().find((item) => item.start + item.size / 2 > box.scrollTop);
    const week = first && weekAt(first.index);
    if (week && week !== reached.current) {
      reached.current = week;
      onTravel(week);
    }
  };

  const release = () => {
    held.current = false;
  };
  const items = isPrinting
    ? Array.from({ length: MONTH_DAYS / 7 }, (_, i) => ({ index: indexOf(target) + i, start: 0 }))
    : virtual.getVirtualItems();

  return (
    <div
      className="board month"
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
      <div className="month-heads">
        <span />
        {dayRange(origin, 7).map((day) => (
          <span key={day}>{formatDay(day, language, { weekday: 'short' }).replace('.', '')}</span>
        ))}
      </div>
      <div className="month-sheet" style={{ height: size }}>
        <div className="month-near" style={{ transform: `translateY(${items[0]?.start ?? 0}px)` }}>
          {items.map((item) => (
            <Week
              key={weekAt(item.index)}
              index={item.index}
              measure={isPrinting ? undefined : virtual.measureElement}
              week={weekAt(item.index)}
              calendars={calendars}
              today={today}
              chosen={chosen}
              onChoose={onChoose}
              typing={typing}
              onTyping={setTyping}
            />
          ))}
        </div>
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
  /** Where it is in the sheet, and how its height is told. */
  index: number;
  measure: ((element: HTMLDivElement | null) => void) | undefined;
}

const Week = ({ week, calendars, today, chosen, onChoose, typing, onTyping, index, measure }: WeekProps) => {
  const { t, language } = useTexts();
  const block = blockOf(week);
  const from = addDays(EPOCH, block * 7 * BLOCK_WEEKS);
  const look = useViewAs();
  const board = useQuery({
    queryKey: [...boardKey(look), from, addDays(from, 7 * BLOCK_WEEKS)],
    queryFn: () => api.board(from, addDays(from, 7 * BLOCK_WEEKS), look),
  });
  const days = dayRange(week, 7);
  const data = board.data;
  const info = new Map(data?.days.map((day) => [day.date, day]));
  const taught = days.map((day) => info.get(day)).find((day) => day?.teachingWeek);
  const opensMonth = days.find((day) => day.endsWith('-01'));
  return (
    <div
      ref={measure}
      data-index={index}
      className={`week${days.includes(today) ? ' is-this-week' : ''}`}
      data-week={week}
    >
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

interface WeekDaysProps extends Omit<WeekProps, 'week' | 'index' | 'measure'> {
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
  const { seen, calendarOf } = seenIn(occurrences, calendars, days[0] ?? '', 7);
  const bars = packBars(seen, days[0] ?? '', 7);
  return (
    <>
      {days.map((day, column) => {
        const own = onDay(seen, day);
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
              const calendar = calendarOf(o);
              return (
                calendar && (
                  <Entry
                    key={occurrenceKey(o)}
                    occurrence={o}
                    calendar={calendar}
                    isChosen={isChosen(chosen, o)}
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
          calendar={calendarOf(bar.occurrence)}
          chosen={chosen}
          onChoose={onChoose}
        />
      ))}
    </>
  );
};
