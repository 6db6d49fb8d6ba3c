import { useRef, useState, type CSSProperties } from 'react';
import Dropdown from 'react-bootstrap/Dropdown';
import type { Calendar, Occurrence } from '../../shared/api/client';
import { dayRange, longDay, weekday, type Day } from '../../shared/dates';
import { isChosen } from '../selection';
import { useTexts } from '../../shared/i18n';
import { markClass, Spine } from '../../shared/parts/Spine';
import { arrange, moveRow, stepRow, toggled, type Arrangement } from '../arrangement';
import { BarPlace } from './BarPlace';
import { seenIn } from './seenIn';
import type { BoardProps } from '../boardProps';
import { DayHead } from './DayHead';
import { Entry } from './Entry';
import { HiddenCalendars } from './HiddenCalendars';
import { linesOn, onDay, packBars } from './layout';
import { isBar, isOnlyProposed, occurrenceKey } from '../../shared/occurrences';
import { mayEdit, mayOffer } from '../../shared/data/rights';
import { LineEntry } from '../entry/LineEntry';
import { LaneState } from './LaneState';
import { NearLane } from './NearLane';
import { ReachMark } from '../../shared/parts/ReachMark';
import { NO_SHIFT } from '../gestures/shift';
import { useBoardHands } from '../gestures/useBoardHands';
import './lanes.scss';

interface Props extends BoardProps {
  arrangement: Arrangement;
  onArrange: (next: Arrangement) => void;
}

/** As many entries of one calendar stand on a day; more unfold. */
const ENTRIES = 6;

/** So many rows are all drawn, wherever they are; of more, those near what is on the screen. */
const WHOLE = 40;
/** More than are on a screen at once. */
const FIRST = 20;
/** The height of a row with nothing on it, in dots. */
const LOW = 46;
/** And about what an entry adds to it. */
const ENTRY = 44;

interface Cell {
  calendarId: string;
  day: Day;
  lastDay?: Day;
}

/** A row a calendar, a column a day. */
export const Lanes = ({ data, arrangement, onArrange, from, days, today, chosen, onChoose }: Props) => {
  const { t, language } = useTexts();
  const [typing, setTyping] = useState<Cell | null>(null);
  const [opened, setOpened] = useState<string | null>(null);
  const shown = dayRange(from, days);
  const info = new Map(data.days.map((day) => [day.date, day]));
  const groups = arrange(data.calendars, arrangement);
  const rows = groups.flatMap((group) => group.calendars);
  const { seen: visible } = seenIn(data.occurrences, rows, from, days);
  const ofCalendar = new Map<string, Occurrence[]>(data.calendars.map((c) => [c.id, []]));
  for (const o of visible) for (const id of new Set([o.calendarId, ...o.alsoIn])) ofCalendar.get(id)?.push(o);
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
  const lane = (id: string) => `lane-${id}`;
  // Where it went is where it comes back from.
  const toHidden = () =>
    requestAnimationFrame(() => document.querySelector<HTMLElement>('.lanes-hidden button')?.focus());
  const hide = (ids: string[]) => {
    onArrange({ ...arrangement, hidden: [...arrangement.hidden, ...ids] });
    toHidden();
  };
  const showOnly = (ids: string[]) => {
    onArrange({ ...arrangement, hidden: data.calendars.map((c) => c.id).filter((id) => !ids.includes(id)) });
    toHidden();
  };
  const [carried, setCarried] = useState<string | null>(null);
  const board = useRef<HTMLDivElement>(null);
  const hands = useBoardHands({
    board,
    calendars: data.calendars,
    // What one may only read stays where it is.
    occurrences: visible.filter(
      (o) => !isOnlyProposed(o) && mayEdit(data.calendars.find((c) => c.id === o.calendarId)),
    ),
    chosen,
    onChoose,
    onDraw: (first, last) =>
      mayOffer(data.calendars.find((c) => c.id === first.calendarId)) &&
      first.calendarId &&
      setTyping({ calendarId: first.calendarId, day: first.day, lastDay: last.day }),
    step: (key, o) => {
      const sideways = key === 'ArrowRight' ? 1 : key === 'ArrowLeft' ? -1 : 0;
      if (sideways) return { ...NO_SHIFT, days: sideways };
      const at = rows.findIndex((c) => c.id === o.calendarId);
      const other = key === 'ArrowDown' ? rows[at + 1] : key === 'ArrowUp' ? rows[at - 1] : undefined;
      return other ? { ...NO_SHIFT, calendarId: other.id } : null;
    },
  });

  return (
    <div
      className="board lanes"
      ref={board}
      style={{ '--columns': columns, '--days': days } as CSSProperties}
      {...hands.handlers}
    >
      {hands.ghost}
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
      {groups.map(({ name: group, calendars }) => (
        <section key={group} aria-label={group || t('lanes.calendars')}>
          {group && (
            <GroupHead
              name={group}
              isFolded={calendars.every((c) => arrangement.folded.includes(c.id))}
              onFold={(isFolded) => {
                const ids = calendars.map((c) => c.id);
                const others = arrangement.folded.filter((id) => !ids.includes(id));
                onArrange({ ...arrangement, folded: isFolded ? [...others, ...ids] : others });
              }}
              onHide={() => hide(calendars.map((c) => c.id))}
              onOnly={() => showOnly(calendars.map((c) => c.id))}
            />
          )}
          {calendars.map((calendar) => {
            const own = ofCalendar.get(calendar.id) ?? [];
            const isFolded = arrangement.folded.includes(calendar.id);
            const drawn = () => {
              const bars = isFolded ? [] : packBars(own, from, days);
              return (
                <>
                  <div
                    className={`lane-head ${markClass(calendar.mark)}${carried && carried !== calendar.id ? ' takes-rows' : ''}`}
                    draggable
                    onDragStart={(e) => {
                      e.dataTransfer.effectAllowed = 'move';
                      e.dataTransfer.setData('text/plain', calendar.title);
                      setCarried(calendar.id);
                    }}
                    onDragEnd={() => setCarried(null)}
                    onDragOver={(e) => carried && e.preventDefault()}
                    onDrop={(e) => {
                      e.preventDefault();
                      if (carried) onArrange(moveRow(data.calendars, arrangement, carried, calendar.id));
                      setCarried(null);
                    }}
                  >
                    <Spine />
                    <button
                      type="button"
                      className="lane-name"
                      id={lane(calendar.id)}
                      onKeyDown={(e) => {
                        const by = e.key === 'ArrowUp' ? -1 : e.key === 'ArrowDown' ? 1 : 0;
                        if (!e.altKey || !by) return;
                        e.preventDefault();
                        e.stopPropagation();
                        onArrange(stepRow(data.calendars, arrangement, calendar.id, by));
                        requestAnimationFrame(() => document.getElementById(lane(calendar.id))?.focus());
                      }}
                      aria-pressed={chosen?.kind === 'calendar' && chosen.id === calendar.id}
                      onClick={() => onChoose({ kind: 'calendar', id: calendar.id })}
                    >
                      {calendar.title}
                      {!isFolded && <ReachMark reach={calendar.reach} />}
                      {!isFolded && calendar.isFollowed && <LaneState calendarId={calendar.id} />}
                    </button>
                    <LaneMenu
                      calendar={calendar}
                      isFolded={isFolded}
                      onFold={() => onArrange({ ...arrangement, folded: toggled(arrangement.folded, calendar.id) })}
                      onHide={() => hide([calendar.id])}
                      onOnly={() => showOnly([calendar.id])}
                      onStep={(by) => onArrange(stepRow(data.calendars, arrangement, calendar.id, by))}
                      onSettings={() => onChoose({ kind: 'calendar', id: calendar.id })}
                    />
                  </div>
                  {shown.map((day, column) => {
                    const cellKey = `${calendar.id} ${day}`;
                    const all = onDay(own, day);
                    const entries = all.length <= ENTRIES || opened === cellKey ? all : all.slice(0, ENTRIES - 1);
                    const closed = info.get(day)?.partClosures.find((c) => c.calendarIds.includes(calendar.id));
                    return (
                      <div
                        key={day}
                        data-day={day}
                        data-lane={calendar.id}
                        className={`cell ${dayClass(day)}${closed ? ' is-closed' : ''}`}
                        style={
                          {
                            gridColumn: `calc(${column + 1} + var(--head-columns))`,
                            '--lines': linesOn(bars, column),
                          } as CSSProperties
                        }
                      >
                        {/* It takes the focus where nothing can be added too: arrow keys go through all cells. */}
                        <button
                          type="button"
                          className="cell-add"
                          aria-label={t('lanes.addOn', { calendar: calendar.title, day: longDay(day, language) })}
                          title={closed?.name}
                          aria-disabled={!mayOffer(calendar)}
                          onClick={() => mayOffer(calendar) && setTyping({ calendarId: calendar.id, day })}
                        />
                        {isFolded ? (
                          <FoldedDay occurrences={own.filter((o) => o.firstDay <= day && day <= o.lastDay)} />
                        ) : (
                          entries.map((o) => (
                            <Entry
                              key={occurrenceKey(o)}
                              occurrence={o}
                              calendar={calendar}
                              isChosen={isChosen(chosen, o)}
                              onChoose={onChoose}
                            />
                          ))
                        )}
                        {!isFolded && all.length > entries.length && (
                          <button type="button" className="cell-more" onClick={() => setOpened(cellKey)}>
                            {t('month.more', { count: all.length - entries.length })}
                          </button>
                        )}
                        {!isFolded && opened === cellKey && (
                          <button type="button" className="cell-more" onClick={() => setOpened(null)}>
                            {t('month.fewer')}
                          </button>
                        )}
                        {typing?.calendarId === calendar.id && typing.day === day && (
                          <LineEntry
                            calendar={calendar}
                            day={day}
                            lastDay={typing.lastDay}
                            alignEnd={column > days / 2}
                            onClose={() => setTyping(null)}
                            onLines={(lines) => {
                              setTyping(null);
                              onChoose({ kind: 'lines', calendarId: calendar.id, day, lines });
                            }}
                            onMore={(draft) => {
                              setTyping(null);
                              onChoose({ kind: 'new-event', draft });
                            }}
                          />
                        )}
                        {closed && <span className="cell-note">{closed.name}</span>}
                      </div>
                    );
                  })}
                  {bars.map((bar) => (
                    <BarPlace
                      key={occurrenceKey(bar.occurrence)}
                      bar={bar}
                      calendar={calendar}
                      chosen={chosen}
                      onChoose={onChoose}
                    />
                  ))}
                </>
              );
            };
            return (
              <NearLane
                key={calendar.id}
                board={board}
                calendar={calendar}
                className={isFolded ? 'lane is-folded' : 'lane'}
                isKept={
                  rows.length <= WHOLE ||
                  typing?.calendarId === calendar.id ||
                  (chosen?.kind === 'calendar' && chosen.id === calendar.id) ||
                  own.some((o) => isChosen(chosen, o))
                }
                isFirst={rows.indexOf(calendar) < FIRST}
                about={
                  isFolded
                    ? LOW
                    : LOW + ENTRY * Math.max(...shown.map((day) => Math.min(ENTRIES, onDay(own, day).length)))
                }
              >
                {drawn}
              </NearLane>
            );
          })}
        </section>
      ))}
      <HiddenCalendars calendars={data.calendars} arrangement={arrangement} onArrange={onArrange} />
    </div>
  );
};

/** How much is on in a folded row. */
const FoldedDay = ({ occurrences }: { occurrences: Occurrence[] }) => {
  const { t } = useTexts();
  return occurrences.length > 0 ? (
    <span className="folded-day" title={occurrences.map((o) => o.title).join(', ')}>
      {t('lanes.folded', { count: occurrences.length })}
    </span>
  ) : null;
};

interface MenuProps {
  calendar: Calendar;
  isFolded: boolean;
  onFold: () => void;
  onHide: () => void;
  onOnly: () => void;
  onStep: (by: 1 | -1) => void;
  onSettings: () => void;
}

/** What can be done with a row. */
const LaneMenu = ({ calendar, isFolded, onFold, onHide, onOnly, onStep, onSettings }: MenuProps) => {
  const { t } = useTexts();
  return (
    <Dropdown align="end" className="lane-menu">
      <Dropdown.Toggle as="button" type="button" aria-label={t('lanes.menu', { calendar: calendar.title })}>
        ⋯
      </Dropdown.Toggle>
      <Dropdown.Menu popperConfig={{ strategy: 'fixed' }} renderOnMount={false}>
        <Dropdown.Item as="button" onClick={onFold}>
          {isFolded ? t('lanes.unfold') : t('lanes.fold')}
        </Dropdown.Item>
        <Dropdown.Item as="button" onClick={onHide}>
          {t('lanes.hide')}
        </Dropdown.Item>
        <Dropdown.Item as="button" onClick={onOnly}>
          {t('lanes.only')}
        </Dropdown.Item>
        <Dropdown.Item as="button" onClick={() => onStep(-1)}>
          {t('lanes.up')}
        </Dropdown.Item>
        <Dropdown.Item as="button" onClick={() => onStep(1)}>
          {t('lanes.down')}
        </Dropdown.Item>
        <Dropdown.Item as="button" onClick={onSettings}>
          {t('lanes.settings')}
        </Dropdown.Item>
      </Dropdown.Menu>
    </Dropdown>
  );
};

interface GroupProps {
  name: string;
  isFolded: boolean;
  onFold: (isFolded: boolean) => void;
  onHide: () => void;
  onOnly: () => void;
}

/** The heading over several rows, and what can be done with all of them. */
const GroupHead = ({ name, isFolded, onFold, onHide, onOnly }: GroupProps) => {
  const { t } = useTexts();
  return (
    <div className="lane-group">
      <h2>{name}</h2>
      <Dropdown className="lane-menu">
        <Dropdown.Toggle as="button" type="button" aria-label={t('lanes.menu', { calendar: name })}>
          ⋯
        </Dropdown.Toggle>
        <Dropdown.Menu popperConfig={{ strategy: 'fixed' }} renderOnMount={false}>
          <Dropdown.Item as="button" onClick={() => onFold(!isFolded)}>
            {isFolded ? t('lanes.unfoldAll') : t('lanes.foldAll')}
          </Dropdown.Item>
          <Dropdown.Item as="button" onClick={onHide}>
            {t('lanes.hideAll')}
          </Dropdown.Item>
          <Dropdown.Item as="button" onClick={onOnly}>
            {t('lanes.onlyGroup')}
          </Dropdown.Item>
        </Dropdown.Menu>
      </Dropdown>
    </div>
  );
};
