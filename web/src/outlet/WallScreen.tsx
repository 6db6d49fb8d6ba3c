import { useLayoutEffect, useRef } from 'react';
import { addDays } from '../shared/dates';
import { clockIn, isOn, markOf, wordsFor, type OutletEvent, type OutletStart, type Texts } from './model';

interface Props {
  start: OutletStart;
  texts: Texts;
  /** When it was last read. */
  readAt: Date;
  /** Whether nothing could be read since. */
  isStale: boolean;
  now: Date;
}

const DAYS = 14;
const STALE_MS = 5 * 60_000;

/** Today and the next days for a screen on a wall. What there is no room for is left out, the last first. */
export const Wall = ({ start, texts, readAt, isStale, now }: Props) => {
  const words = wordsFor(texts, start.look.hours);
  const clock = clockIn(now, start.zone);
  const today = clock.slice(0, 10);
  const events = start.window.events;
  const list = useRef<HTMLElement>(null);
  useLayoutEffect(() => {
    const box = list.current;
    if (!box) return;
    const all = [...box.querySelectorAll<HTMLElement>('li, section')];
    for (const part of all) part.hidden = false;
    for (const part of all.reverse()) {
      if (box.scrollHeight <= box.clientHeight) break;
      // Today stays, also where its entries are too many.
      if (part.matches('.is-today, .is-today li:first-child')) continue;
      part.hidden = true;
    }
    // A day none of whose entries has room says nothing.
    for (const day of box.querySelectorAll<HTMLElement>('section:not(.is-today)'))
      if (!day.querySelector('li:not([hidden])')) day.hidden = true;
  });
  const days = Array.from({ length: DAYS }, (_, i) => addDays(today, i + 1))
    .map((day) => [day, events.filter((e) => e.firstDay === day)] as const)
    .filter(([, own]) => own.length > 0);
  const own = events.filter((e) => isOn(e, today));
  return (
    <>
      <header>
        <p>
          {start.school} · <bdi>{start.title}</bdi>
        </p>
        <h1>{words.heading(today, today)}</h1>
        <time className="clock">{words.time(clock)}</time>
      </header>
      <main ref={list}>
        <section className="is-today">
          <h2>{texts.today}</h2>
          {own.length === 0 && <p className="empty">{start.look.empty || texts.nothingToday}</p>}
          <ul>
            {own.map((e) => (
              <Line key={e.id} event={e} day={today} isOver={!e.allDay && e.end <= clock} {...{ start, texts }} />
            ))}
          </ul>
        </section>
        {days.map(([day, all]) => (
          <section key={day}>
            <h2>{words.heading(day, today)}</h2>
            <ul>
              {all.map((e) => (
                <Line key={e.id} event={e} day={day} {...{ start, texts }} />
              ))}
            </ul>
          </section>
        ))}
      </main>
      {isStale && now.getTime() - readAt.getTime() > STALE_MS && (
        <p className="stale" role="status">
          {words.fill(texts.asOf, {
            value: `${words.heading(clockIn(readAt, start.zone).slice(0, 10), today)}, ${words.time(clockIn(readAt, start.zone))}`,
          })}
        </p>
      )}
    </>
  );
};

interface LineProps {
  event: OutletEvent;
  day: string;
  isOver?: boolean;
  start: OutletStart;
  texts: Texts;
}

const Line = ({ event, day, isOver, start, texts }: LineProps) => {
  const words = wordsFor(texts, start.look.hours);
  const isTimed = !event.allDay && event.firstDay === day;
  return (
    <li className={`mark-${markOf(event, start)}${isOver ? ' is-over' : ''}`}>
      <span className="spine" aria-hidden="true" />
      <span className="time">{isTimed ? words.time(event.start) : event.allDay ? texts.allDay : '…'}</span>
      <span className="title" dir="auto">
        {event.calledOff ? <s>{event.title}</s> : event.title}
      </span>
      <span className="place" dir="auto">
        {event.calledOff ? texts.calledOff : event.place}
      </span>
    </li>
  );
};
