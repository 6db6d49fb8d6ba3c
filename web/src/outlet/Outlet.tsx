import { useEffect, useMemo, useRef, useState } from 'react';
import { addDays, addMonths, dayRange, firstOfMonth, monday, zoneCity } from '../shared/dates';
import { Details, EventLine, Subscribe, Title } from './parts';
import {
  textsOf,
  markOf,
  wordsFor,
  type OutletEvent,
  type OutletStart,
  type OutletWindow,
  type Texts,
  type Words,
} from './model';

interface Props {
  start: OutletStart;
  shape: 'page' | 'embed' | 'upcoming';
  count: number;
}

const LIST_DAYS = 42;

type View = 'month' | 'list';

/** The events of a window: from the page itself when it holds them, else fetched. */
const useWindow = (start: OutletStart, from: string, to: string) => {
  const [answer, setAnswer] = useState<{ key: string; events: OutletEvent[] | null } | null>(null);
  const [tries, setTries] = useState(0);
  const isIn = start.window.from <= from && to <= start.window.to;
  const key = `${from} ${to} ${tries}`;
  useEffect(() => {
    if (isIn) return;
    const stop = new AbortController();
    fetch(`${start.events}from=${from}&to=${to}`, { signal: stop.signal })
      .then((r) => (r.ok ? (r.json() as Promise<OutletWindow>) : Promise.reject(new Error(String(r.status)))))
      .then(
        (found) => setAnswer({ key, events: found.events }),
        () => {
          if (!stop.signal.aborted) setAnswer({ key, events: null });
        },
      );
    return () => stop.abort();
  }, [start.events, from, to, isIn, key]);
  const fetched = answer?.key === key ? answer.events : undefined;
  const source = isIn ? start.window.events : fetched;
  const events = useMemo(() => source?.filter((e) => e.lastDay >= from && e.firstDay < to) ?? null, [source, from, to]);
  return { events, failed: source === null, retry: () => setTries(tries + 1) };
};

export const Outlet = ({ start, shape, count }: Props) => {
  const texts = textsOf(start.language);
  const words = useMemo(() => wordsFor(texts), [texts]);
  const [view, setView] = useState<View>(start.firstView);
  const [anchor, setAnchor] = useState(start.today);
  const [subscribing, setSubscribing] = useState(false);

  if (shape === 'upcoming') return <Upcoming start={start} count={count} texts={texts} words={words} />;

  const month = firstOfMonth(anchor);
  const from = view === 'month' ? monday(month) : anchor;
  const to = view === 'month' ? addDays(monday(addDays(addMonths(month, 1), -1)), 7) : addDays(anchor, LIST_DAYS);
  const travel = (by: number) => setAnchor(view === 'month' ? addMonths(month, by) : addDays(anchor, by * LIST_DAYS));
  const goTo = (next: View) => {
    setView(next);
    // The list of this month begins today, not on its first day.
    if (next === 'list' && firstOfMonth(anchor) === firstOfMonth(start.today)) setAnchor(start.today);
  };

  return (
    <>
      <div className="bar">
        <h2 className="outlet-title" aria-live="polite">
          {view === 'month'
            ? words.monthName(month)
            : anchor === start.today
              ? texts.next
              : words.heading(anchor, start.today)}
        </h2>
        <div className="travel">
          <button type="button" onClick={() => travel(-1)}>
            {texts.earlier}
          </button>
          <button type="button" onClick={() => setAnchor(start.today)}>
            {texts.today}
          </button>
          <button type="button" onClick={() => travel(1)}>
            {texts.later}
          </button>
        </div>
        <div className="views">
          {(['month', 'list'] as const).map((v) => (
            <button key={v} type="button" aria-pressed={view === v} onClick={() => goTo(v)}>
              {texts[v]}
            </button>
          ))}
          <button type="button" aria-expanded={subscribing} onClick={() => setSubscribing(!subscribing)}>
            {texts.subscribe}
          </button>
        </div>
      </div>
      {subscribing && <Subscribe start={start} texts={texts} onClose={() => setSubscribing(false)} />}
      <Shown key={view} view={view} month={month} from={from} to={to} start={start} texts={texts} words={words} />
      <footer className="outlet-foot">
        <ul className="key">
          {start.calendars.map((calendar) => (
            <li key={calendar.title} className={`mark-${calendar.mark}`}>
              <span className="spine" aria-hidden="true" />
              {calendar.title}
            </li>
          ))}
        </ul>
        <span>{words.fill(texts.timesIn, { value: zoneCity(start.zone) })}</span>
        {shape === 'embed' && (
          <a href={start.page} target="_blank" rel="noopener">
            {texts.openPage}
          </a>
        )}
      </footer>
    </>
  );
};

interface ShownProps {
  view: View;
  month: string;
  from: string;
  to: string;
  start: OutletStart;
  texts: Texts;
  words: Words;
}

const Shown = ({ view, month, from, to, start, texts, words }: ShownProps) => {
  const { events, failed, retry } = useWindow(start, from, to);
  if (failed)
    return (
      <p role="alert" className="empty">
        {texts.loadFailed}{' '}
        <button type="button" onClick={retry}>
          {texts.tryAgain}
        </button>
      </p>
    );
  if (view === 'list') return <List events={events} from={from} start={start} texts={texts} words={words} />;
  return <Month month={month} from={from} to={to} events={events ?? []} start={start} texts={texts} words={words} />;
};

const Month = ({
  month,
  from,
  to,
  events,
  start,
  texts,
  words,
}: Omit<ShownProps, 'view'> & { events: OutletEvent[] }) => {
  const [day, setDay] = useState(start.today);
  const [opened, setOpened] = useState<string | null>(null);
  const weeks: string[] = [];
  for (let week = from; week < to; week = addDays(week, 7)) weeks.push(week);
  const on = (d: string) => events.filter((e) => e.firstDay <= d && d <= e.lastDay);
  const shown = events.find((e) => e.id === opened);

  return (
    <div className="month">
      <div className="week heads" aria-hidden="true">
        {dayRange(from, 7).map((d, i) => (
          <span key={d}>{words.weekdayShort(i)}</span>
        ))}
      </div>
      {weeks.map((week) => {
        const days = dayRange(week, 7);
        return (
          <div key={week}>
            <div className="week">
              {days.map((d) => {
                const own = on(d);
                const classes = [
                  'day',
                  d === start.today && 'is-today',
                  !d.startsWith(month.slice(0, 7)) && 'is-other',
                  d === day && 'is-chosen',
                ];
                return (
                  <section key={d} className={classes.filter(Boolean).join(' ')} aria-label={words.day(d)}>
                    <span className="number">{Number(d.slice(8))}</span>
                    <button
                      type="button"
                      className="day-choice"
                      aria-label={`${words.day(d)} (${own.length})`}
                      aria-pressed={d === day}
                      onClick={() => setDay(d)}
                    >
                      {Number(d.slice(8))}
                      <span className="dots" aria-hidden="true">
                        {own.slice(0, 4).map((e) => (
                          <span key={e.id} className={`mark-${markOf(e, start)}`}>
                            <span className="spine" />
                          </span>
                        ))}
                      </span>
                    </button>
                    <ul className="in-day">
                      {own.map((e) => (
                        <li key={e.id} className={`mark-${markOf(e, start)}`}>
                          <button
                            type="button"
                            className="entry"
                            aria-expanded={opened === e.id}
                            onClick={() => {
                              setOpened(opened === e.id ? null : e.id);
                              setDay(d);
                            }}
                          >
                            <span className="spine" aria-hidden="true" />
                            <span>
                              {!e.allDay && e.firstDay === d && <span className="time">{words.time(e.start)} </span>}
                              <Title event={e} texts={texts} />
                            </span>
                          </button>
                        </li>
                      ))}
                    </ul>
                  </section>
                );
              })}
            </div>
            {shown && days.includes(day) && (
              <Card onClose={() => setOpened(null)} texts={texts}>
                <Details event={shown} start={start} words={words} withTitle />
              </Card>
            )}
            {days.includes(day) && (
              <div className="day-below" aria-live="polite">
                <h3>{words.day(day)}</h3>
                {on(day).length === 0 && <p className="empty">{texts.nothingHere}</p>}
                <ul className="entries">
                  {on(day).map((e) => (
                    <EventLine key={e.id} event={e} start={start} texts={texts} words={words} />
                  ))}
                </ul>
              </div>
            )}
          </div>
        );
      })}
    </div>
  );
};

const Card = ({ onClose, texts, children }: { onClose: () => void; texts: Texts; children: React.ReactNode }) => {
  const box = useRef<HTMLDivElement>(null);
  useEffect(() => box.current?.scrollIntoView({ block: 'nearest' }), []);
  return (
    <div
      ref={box}
      className="card"
      onKeyDown={(e) => {
        if (e.key === 'Escape') onClose();
      }}
    >
      {children}
      <button type="button" onClick={onClose}>
        {texts.close}
      </button>
    </div>
  );
};

interface ListProps extends Omit<ShownProps, 'view' | 'month' | 'to'> {
  events: OutletEvent[] | null;
}

const byDay = (events: OutletEvent[], from: string): [string, OutletEvent[]][] => {
  const days = new Map<string, OutletEvent[]>();
  for (const e of events) {
    const day = e.firstDay < from ? from : e.firstDay;
    days.set(day, [...(days.get(day) ?? []), e]);
  }
  return [...days].sort(([a], [b]) => a.localeCompare(b));
};

const List = ({ events, from, start, texts, words }: ListProps) => {
  if (!events) return <p className="empty">…</p>;
  if (events.length === 0) return <p className="empty">{texts.nothingHere}</p>;
  return <Days events={events} from={from} start={start} texts={texts} words={words} />;
};

/** Events under their days. */
const Days = ({ events, from, start, texts, words }: ListProps & { events: OutletEvent[] }) => (
  <ol className="days">
    {byDay(events, from).map(([day, own]) => (
      <li key={day} className={day === start.today ? 'is-today' : ''}>
        <h3>{words.heading(day, start.today)}</h3>
        <ul className="entries">
          {own.map((e) => (
            <EventLine key={e.id} event={e} start={start} texts={texts} words={words} />
          ))}
        </ul>
      </li>
    ))}
  </ol>
);

/** The short list for a side column. */
const Upcoming = ({
  start,
  count,
  texts,
  words,
}: {
  start: OutletStart;
  count: number;
  texts: Texts;
  words: Words;
}) => {
  const next = start.window.events.filter((e) => e.lastDay >= start.today).slice(0, count);
  return (
    <>
      <h2 className="outlet-title">{texts.comingUp}</h2>
      {next.length === 0 && <p className="empty">{texts.nothing}</p>}
      <Days events={next} from={start.today} start={start} texts={texts} words={words} />
      <footer className="outlet-foot">
        <span>{words.fill(texts.timesIn, { value: zoneCity(start.zone) })}</span>
        <a href={start.page} target="_blank" rel="noopener">
          {texts.openPage}
        </a>
        <a href={start.webcal}>{texts.subscribe}</a>
      </footer>
    </>
  );
};
