import { useContext, useState } from 'react';
import { addDays, dayRange, daysBetween, firstOfMonth, weekday } from '../shared/dates';
import { byDay, markOf, OutletContext, weekOf, type Look, type OutletEvent } from './model';
import { CellEntry, Details, EventLine, onDay, Opened } from './parts';

interface Shown {
  events: OutletEvent[];
  from: string;
  to: string;
}

const weeksOf = (from: string, to: string): string[] => {
  const weeks: string[] = [];
  for (let week = from; week < to; week = addDays(week, 7)) weeks.push(week);
  return weeks;
};

export const Nothing = ({ text }: { text?: string }) => {
  const { start, texts } = useContext(OutletContext);
  return <p className="empty">{start.look.empty || text || texts.nothingHere}</p>;
};

/** How many entries a day's cell shows before the rest waits behind a button. */
const IN_CELL = 4;
const COMING = 5;

/** A day's entries: many of them are a few, and the rest on request. */
const CellEntries = ({ day, events, isOpen, onOpen }: CellProps) => {
  const { texts, words } = useContext(OutletContext);
  const [all, setAll] = useState(false);
  const shown = all || events.length <= IN_CELL + 1 ? events : events.slice(0, IN_CELL);
  return (
    <ul className="in-day">
      {shown.map((e) => (
        <CellEntry key={e.id} event={e} day={day} isOpen={isOpen(e)} onOpen={() => onOpen(e)} />
      ))}
      {shown.length < events.length && (
        <li>
          <button type="button" className="entry more" onClick={() => setAll(true)}>
            {words.fill(texts.andMore, { value: events.length - shown.length })}
          </button>
        </li>
      )}
    </ul>
  );
};

interface CellProps {
  day: string;
  events: OutletEvent[];
  isOpen: (event: OutletEvent) => boolean;
  onOpen: (event: OutletEvent) => void;
}

/**
 * Weeks under each other: a month of the calendar, or this week and those that come. On a phone the days' numbers, a day that is
 * chosen below its week, and what comes next below all of them.
 */
export const Month = ({ events, from, to, month, beyond }: Shown & { month: string | null; beyond: OutletEvent[] }) => {
  const { start, texts, words } = useContext(OutletContext);
  const [day, setDay] = useState<string | null>(null);
  const [opened, setOpened] = useState<string | null>(null);
  const shown = events.find((e) => e.id === opened);
  const now = from <= start.today && start.today < to ? start.today : from;
  const coming = [...events.filter((e) => e.lastDay >= now), ...beyond.filter((e) => e.firstDay >= to)].slice(
    0,
    COMING,
  );
  return (
    <div className="month">
      <div className="week heads" aria-hidden="true">
        {dayRange(from, 7).map((d) => (
          <span key={d}>{words.weekdayShort(d)}</span>
        ))}
      </div>
      {weeksOf(from, to).map((week) => {
        const days = dayRange(week, 7);
        return (
          <div key={week} className="of-week">
            <div className="week">
              {days.map((d) => {
                const own = onDay(events, d);
                const classes = [
                  'day',
                  d === start.today && 'is-today',
                  (month ? !d.startsWith(month.slice(0, 7)) : d < start.today) && 'is-other',
                  d === day && 'is-chosen',
                ];
                return (
                  <section key={d} className={classes.filter(Boolean).join(' ')} aria-label={words.day(d)}>
                    <span className="number">
                      {Number(d.slice(8))}
                      {!month && (d === from || d.endsWith('-01')) && ` ${words.monthShort(d)}`}
                    </span>
                    <DayChoice
                      day={d}
                      events={own}
                      isChosen={d === day}
                      onChoose={() => setDay(d === day ? null : d)}
                    />
                    <CellEntries
                      day={d}
                      events={own}
                      isOpen={(e) => opened === e.id && day === d}
                      onOpen={(e) => {
                        setOpened(opened === e.id && day === d ? null : e.id);
                        setDay(d);
                      }}
                    />
                  </section>
                );
              })}
            </div>
            {shown && day && days.includes(day) && (
              <Opened onClose={() => setOpened(null)}>
                <Details event={shown} withTitle />
              </Opened>
            )}
            {day && days.includes(day) && (
              <div className="day-below" aria-live="polite">
                <OneDay day={day} events={onDay(events, day)} />
              </div>
            )}
          </div>
        );
      })}
      {coming.length > 0 && (
        <div className="coming">
          <h3>{now === start.today ? texts.next : words.heading(now, start.today)}</h3>
          <Days events={coming} from={now} to={addDays(coming.at(-1)?.lastDay ?? to, 1)} />
        </div>
      )}
    </div>
  );
};

const DayChoice = ({
  day,
  events,
  isChosen,
  onChoose,
  onPeek,
}: {
  day: string;
  events: OutletEvent[];
  isChosen: boolean;
  onChoose: () => void;
  onPeek?: () => void;
}) => {
  const { start, words } = useContext(OutletContext);
  return (
    <button
      type="button"
      className="day-choice"
      aria-label={`${words.day(day)} (${events.length})`}
      aria-pressed={isChosen}
      onClick={onChoose}
      onFocus={onPeek}
      onMouseEnter={onPeek}
    >
      {Number(day.slice(8))}
      <span className="dots" aria-hidden="true">
        {events.slice(0, 4).map((e) => (
          <span key={e.id} className={`mark-${markOf(e, start)}`}>
            <span className="spine" />
          </span>
        ))}
      </span>
    </button>
  );
};

const OneDay = ({ day, events }: { day: string; events: OutletEvent[] }) => {
  const { words } = useContext(OutletContext);
  return (
    <>
      <h3>{words.day(day)}</h3>
      {events.length === 0 && <Nothing />}
      <ul className="entries">
        {events.map((e) => (
          <EventLine key={e.id} event={e} />
        ))}
      </ul>
    </>
  );
};

/** A small month for a side column: a day tells what is on when it is pointed at, comes into focus, or is tapped. */
export const Small = ({ events, from, to, month }: Shown & { month: string }) => {
  const { start, texts } = useContext(OutletContext);
  const [day, setDay] = useState(firstOfMonth(start.today) === month ? start.today : month);
  const isHere = from <= day && day < to;
  return (
    <div className="small-month">
      <div className="week heads" aria-hidden="true">
        {dayRange(from, 7).map((d) => (
          <span key={d}>{texts.weekdaysNarrow[weekday(d) - 1]}</span>
        ))}
      </div>
      {weeksOf(from, to).map((week) => (
        <div key={week} className="week">
          {dayRange(week, 7).map((d) => (
            <div
              key={d}
              className={[
                d === start.today && 'is-today',
                !d.startsWith(month.slice(0, 7)) && 'is-other',
                d === day && 'is-chosen',
              ]
                .filter(Boolean)
                .join(' ')}
            >
              <DayChoice
                day={d}
                events={onDay(events, d)}
                isChosen={d === day}
                onChoose={() => setDay(d)}
                onPeek={() => setDay(d)}
              />
            </div>
          ))}
        </div>
      ))}
      <div className="small-day" aria-live="polite">
        {isHere && <OneDay day={day} events={onDay(events, day)} />}
        <a
          href={`${start.page}?view=list&date=${isHere ? day : month}${start.languageQuery.replace('?', '&')}`}
          target="_blank"
          rel="noopener"
        >
          {texts.openPage}
        </a>
      </div>
    </div>
  );
};

/** Days beside each other, one to seven; on a phone under each other. */
export const Columns = ({ events, from, to }: Shown) => {
  const { start, words } = useContext(OutletContext);
  const [opened, setOpened] = useState<[string, string] | null>(null);
  const days = dayRange(from, daysBetween(from, to));
  const shown = events.find((e) => e.id === opened?.[0]);
  return (
    <>
      <div className={`columns of-${days.length}`}>
        {days.map((d) => {
          const own = onDay(events, d);
          return (
            <section key={d} className={d === start.today ? 'is-today' : ''} aria-label={words.day(d)}>
              <h3>{words.heading(d, d)}</h3>
              {own.length === 0 && <p className="empty">–</p>}
              <CellEntries
                day={d}
                events={own}
                isOpen={(e) => opened?.[0] === e.id && opened[1] === d}
                onOpen={(e) => setOpened(opened?.[0] === e.id && opened[1] === d ? null : [e.id, d])}
              />
            </section>
          );
        })}
      </div>
      {shown && (
        <Opened key={shown.id} onClose={() => setOpened(null)}>
          <Details event={shown} withTitle />
        </Opened>
      )}
    </>
  );
};

/** Events under their days, or one under the other with their days. */
export const Days = ({
  events,
  from,
  to,
  nothing,
  latestFirst,
}: Shown & { nothing?: string; latestFirst?: boolean }) => {
  const { start, words } = useContext(OutletContext);
  if (events.length === 0) return <Nothing text={nothing} />;
  const days = byDay(events, from, to, { ...start.look, ...(latestFirst && { latestFirst }) });
  if (!start.look.byDay)
    return (
      <ul className="entries flat">
        {days.flatMap(([day, own]) => own.map((e) => <EventLine key={`${day} ${e.id}`} event={e} day={day} />))}
      </ul>
    );
  return (
    <ol className="days">
      {days.map(([day, own]) => (
        <li key={day} className={day === start.today ? 'is-today' : ''}>
          <h3>{words.heading(day, start.today)}</h3>
          <ul className="entries">
            {own.map((e) => (
              <EventLine key={e.id} event={e} />
            ))}
          </ul>
        </li>
      ))}
    </ol>
  );
};

/** What is next, with pictures. */
export const Cards = ({ events }: { events: OutletEvent[] }) => {
  const { start, texts, words } = useContext(OutletContext);
  if (events.length === 0) return <Nothing text={texts.nothing} />;
  return (
    <ul className="cards">
      {events.map((e) => (
        <li key={e.id} className={`mark-${markOf(e, start)}`}>
          {e.picture ? (
            <img src={e.picture.address} alt={e.picture.alt} loading="lazy" width="640" height="256" />
          ) : (
            <div className="no-picture" aria-hidden="true">
              <span>{Number(e.firstDay.slice(8))}</span> {words.monthShort(e.firstDay)}
            </div>
          )}
          <h3>
            {e.busy ? (
              <span>{e.title}</span>
            ) : (
              <a href={`${start.page}/e/${e.id}${start.languageQuery}`} target="_blank" rel="noopener">
                {e.calledOff ? <s dir="auto">{e.title}</s> : <bdi>{e.title}</bdi>}
              </a>
            )}
          </h3>
          <p>
            {words.span(e)}
            {e.place && ` · ${e.place}`}
            {e.calledOff && <em> {texts.calledOff}</em>}
          </p>
          {e.subtitle && <p className="subtitle">{e.subtitle}</p>}
          {start.look.descriptions && e.description && (
            <div className="description" dir="auto" dangerouslySetInnerHTML={{ __html: e.description }} />
          )}
        </li>
      ))}
    </ul>
  );
};

const MONTH_WEEKS = 5;

/** The days a view shows around a day. */
export const spanOf = (
  view: string,
  anchor: string,
  { weekStart, wholeMonth }: Pick<Look, 'weekStart' | 'wholeMonth'>,
  listDays: number,
): [string, string] => {
  if (view === 'month' && !wholeMonth)
    return [weekOf(anchor, weekStart), addDays(weekOf(anchor, weekStart), MONTH_WEEKS * 7)];
  if (view === 'month' || view === 'small') {
    const month = firstOfMonth(anchor);
    const last = addDays(firstOfMonth(addDays(month, 32)), -1);
    return [weekOf(month, weekStart), addDays(weekOf(last, weekStart), 7)];
  }
  if (view === 'week') return [weekOf(anchor, weekStart), addDays(weekOf(anchor, weekStart), 7)];
  if (view === 'day') return [anchor, addDays(anchor, 1)];
  return [anchor, addDays(anchor, listDays)];
};
