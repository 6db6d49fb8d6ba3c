import { useEffect, useMemo, useState } from 'react';
import { addDays, addMonths, firstOfMonth, zoneCity } from '../shared/dates';
import {
  choiceQuery,
  OutletContext,
  onReadersClock,
  passes,
  wordsFor,
  type Filters,
  type OutletStart,
  type Texts,
  type View,
} from './model';
import { GoTo } from './GoTo';
import { Subscribe } from './parts';
import { useFound, useWindow } from './useWindow';
import { Cards, Columns, Days, Month, Nothing, Small, spanOf } from './views';

interface Props {
  start: OutletStart;
  texts: Texts;
  isPage: boolean;
}

const LIST_DAYS = 42;
const SEARCH_DAYS = 360;
const LEAST_LISTED = 12;
const MONTH_DAYS = 28;
const [FIRST_DAY, LAST_DAY] = ['1900-01-01', '9999-12-31'];

interface Place extends Filters {
  view: View;
  day: string;
}

/** Where a visitor is, as it stands in the address: a link leads there again. */
const placeOf = (search: string, start: OutletStart): Place => {
  const query = new URLSearchParams(search);
  const view = query.get('view') as View | null;
  const day = query.get('date') ?? '';
  return {
    view: view && start.look.views.includes(view) ? view : start.firstView,
    day: /^\d{4}-\d\d-\d\d$/.test(day) && !Number.isNaN(Date.parse(day)) ? day : start.today,
    off: (query.get('off') ?? '')
      .split(',')
      .map((name) => start.calendars.findIndex((c) => c.name === name))
      .filter((i) => i >= 0),
    category: start.categories.find((c) => c === query.get('category')) ?? '',
    text: query.get('q') ?? '',
  };
};

const addressOf = (place: Place, start: OutletStart): string => {
  const query = new URLSearchParams(choiceQuery(place, start));
  if (place.view !== start.firstView) query.set('view', place.view);
  if (place.day !== start.today) query.set('date', place.day);
  if (start.languageQuery) query.set('lang', start.language);
  const text = query.toString().replaceAll('%2C', ',');
  return text ? `?${text}` : location.pathname;
};

export const Outlet = ({ start, texts, isPage }: Props) => {
  const { look } = start;
  const words = useMemo(() => wordsFor(texts, look.hours), [texts, look.hours]);
  const [place, setPlace] = useState(() => placeOf(location.search, start));
  const [subscribing, setSubscribing] = useState(false);
  // Where there is little room, what narrows the page is folded away.
  const [filtering, setFiltering] = useState(false);
  const { view, day } = place;
  const go = (change: Partial<Place>) => setPlace({ ...place, ...change });
  useEffect(() => {
    if (isPage) history.replaceState(null, '', addressOf(place, start));
  }, [isPage, place, start]);

  const isShort = view === 'upcoming' || view === 'cards';
  const isSearch = place.text.trim() !== '';
  const month = firstOfMonth(day);
  const isFound = isSearch && start.search !== null;
  const [from, to] = isFound
    ? // What is found comes by itself: the days there are already will do.
      [addDays(start.window.from, 1), addDays(start.window.from, 2)]
    : isSearch
      ? [start.today, addDays(start.today, SEARCH_DAYS)]
      : isShort
        ? [start.today, addDays(start.today, LIST_DAYS)]
        : spanOf(view, day, look, LIST_DAYS);
  const window = useWindow(start, from, to);
  const choice = choiceQuery(place, start);
  const search = useFound(start, choice, isSearch);
  const { failed, retry } = isFound ? search : window;
  // A list that begins now goes on until it has its number, however far that is.
  const isNow = day === start.today && (isShort || view === 'list');
  const most = isShort ? look.count : LEAST_LISTED;
  const near = window.events?.filter((e) => passes(e, place)) ?? null;
  const beyond = isNow && !isSearch && near && near.length < most ? start.beyond.map((e) => onReadersClock(e)) : [];
  const wanted = isFound
    ? (search.found?.coming.map((e) => onReadersClock(e)) ?? null)
    : near && [
        ...near,
        ...beyond.filter((e) => passes(e, place) && !near.some((n) => n.id === e.id)).slice(0, most - near.length),
      ];
  const past = isFound ? (search.found?.past.map((e) => onReadersClock(e)) ?? []) : [];
  const end = beyond.length > 0 ? addDays(beyond.at(-1)?.lastDay ?? to, 1) : to;

  const travel = (by: number) =>
    go({
      day:
        view === 'small' || (view === 'month' && look.wholeMonth)
          ? addMonths(month, by)
          : view === 'month'
            ? addDays(day, by * MONTH_DAYS)
            : addDays(day, by * (view === 'day' ? 1 : view === 'week' ? 7 : LIST_DAYS)),
    });
  const title =
    isSearch || (isShort && look.title)
      ? start.title
      : view === 'month' && !look.wholeMonth
        ? words.days(from, addDays(to, -1))
        : view === 'month' || view === 'small'
          ? words.monthName(month)
          : view === 'week'
            ? words.fill(texts.weekFrom, { value: words.heading(from, start.today) })
            : view === 'day'
              ? words.heading(day, start.today)
              : isShort
                ? texts.comingUp
                : day === start.today
                  ? texts.next
                  : words.heading(day, start.today);
  const zone = look.readersZone ? Intl.DateTimeFormat().resolvedOptions().timeZone : start.zone;
  const drawn = useMemo(() => ({ start, texts, words }), [start, texts, words]);
  const isGrid = view === 'month' || view === 'small' || view === 'week' || view === 'day';
  const canTravel = look.navigation && !isShort && !isSearch;

  // A line that was opened closes by Escape.
  useEffect(() => {
    const onKey = (e: KeyboardEvent) => {
      const line = e.key === 'Escape' && e.target instanceof Element ? e.target.closest('details[open]') : null;
      if (!line) return;
      line.removeAttribute('open');
      line.querySelector('summary')?.focus();
    };
    addEventListener('keydown', onKey);
    return () => removeEventListener('keydown', onKey);
  }, []);

  return (
    <OutletContext.Provider value={drawn}>
      {look.title && !isPage && !(isShort || isSearch) && <p className="embed-title">{start.title}</p>}
      <div className="bar">
        <h2 className="outlet-title" aria-live="polite">
          {title}
        </h2>
        {canTravel && (
          <div className="travel">
            <button type="button" onClick={() => travel(-1)}>
              {texts.earlier}
            </button>
            <button type="button" onClick={() => go({ day: start.today })}>
              {texts.today}
            </button>
            <button type="button" onClick={() => travel(1)}>
              {texts.later}
            </button>
            {isPage && <GoTo day={day} onGo={(to) => go({ day: to })} />}
          </div>
        )}
        <div className="views">
          {look.views.length > 1 &&
            look.views.map((v) => (
              <button
                key={v}
                type="button"
                aria-pressed={view === v}
                // The list of this month begins today, not on its first day.
                onClick={() => go({ view: v, day: firstOfMonth(start.today) === month ? start.today : day })}
              >
                {texts[v]}
              </button>
            ))}
          {look.print && (isPage || !isShort) && (
            <button type="button" className="print" onClick={() => print()}>
              {texts.print}
            </button>
          )}
          {isPage && (
            <button type="button" className="fold" aria-expanded={filtering} onClick={() => setFiltering(!filtering)}>
              {texts.search}
            </button>
          )}
          {look.subscribe && !isShort && (
            <button type="button" aria-expanded={subscribing} onClick={() => setSubscribing(!subscribing)}>
              {texts.subscribe}
            </button>
          )}
        </div>
      </div>
      {isPage && (
        <div className={`filters${filtering || isSearch || place.category ? ' is-open' : ''}`} role="search">
          <input
            type="search"
            aria-label={texts.search}
            placeholder={texts.search}
            value={place.text}
            onInput={(e) => go({ text: e.currentTarget.value })}
          />
          {start.categories.length > 0 && (
            <select
              aria-label={texts.category}
              value={place.category}
              onChange={(e) => go({ category: e.currentTarget.value })}
            >
              <option value="">{texts.everyCategory}</option>
              {start.categories.map((c) => (
                <option key={c}>{c}</option>
              ))}
            </select>
          )}
        </div>
      )}
      {subscribing && <Subscribe choice={choice} onClose={() => setSubscribing(false)} />}
      {failed ? (
        <p role="alert" className="empty">
          {texts.loadFailed}{' '}
          <button type="button" onClick={retry}>
            {texts.tryAgain}
          </button>
        </p>
      ) : !wanted && (isSearch || !isGrid) ? (
        <p className="empty">…</p>
      ) : isSearch ? (
        <>
          {(wanted?.length ?? 0) > 0 || past.length === 0 ? (
            <Days events={wanted ?? []} from={start.today} to={LAST_DAY} nothing={texts.nothingFound} />
          ) : (
            <Nothing text={texts.nothingComes} />
          )}
          {past.length > 0 && (
            <>
              <h3 className="over">{texts.over}</h3>
              <Days events={past} from={FIRST_DAY} to={LAST_DAY} latestFirst />
            </>
          )}
        </>
      ) : view === 'month' ? (
        <Month
          key={from}
          events={wanted ?? []}
          from={from}
          to={to}
          month={look.wholeMonth ? month : null}
          beyond={start.beyond}
        />
      ) : view === 'small' ? (
        <Small key={month} events={wanted ?? []} from={from} to={to} month={month} />
      ) : view === 'week' || view === 'day' ? (
        <Columns key={from} events={wanted ?? []} from={from} to={to} />
      ) : view === 'cards' ? (
        <Cards events={order((wanted ?? []).slice(0, look.count), look.latestFirst)} />
      ) : (
        <Days
          events={isShort ? (wanted ?? []).slice(0, look.count) : (wanted ?? [])}
          from={from}
          to={end}
          nothing={isShort ? texts.nothing : undefined}
        />
      )}
      {!isSearch && wanted?.length === 0 && (window.around.next ?? window.around.last) && (
        <p className="elsewhere">
          {window.around.next && (
            <button type="button" onClick={() => go({ day: window.around.next ?? day })}>
              {words.fill(texts.nextOn, { value: words.heading(window.around.next, start.today) })}
            </button>
          )}{' '}
          {!window.around.next && window.around.last && (
            <button type="button" onClick={() => go({ day: window.around.last ?? day })}>
              {words.fill(texts.lastOn, { value: words.heading(window.around.last, start.today) })}
            </button>
          )}
        </p>
      )}
      <footer className="outlet-foot">
        {look.key && !isShort && view !== 'small' && start.calendars.length > 0 && (
          <ul className="key" aria-label={texts.calendars}>
            {start.calendars.map((calendar, i) => (
              <li key={calendar.title} className={`mark-${calendar.mark}`}>
                <button
                  type="button"
                  aria-pressed={!place.off.includes(i)}
                  title={texts.switch}
                  onClick={() =>
                    go({ off: place.off.includes(i) ? place.off.filter((o) => o !== i) : [...place.off, i] })
                  }
                >
                  <span className="spine" aria-hidden="true" />
                  {calendar.title}
                </button>
              </li>
            ))}
          </ul>
        )}
        {look.zone && <span>{words.fill(texts.timesIn, { value: zoneCity(zone) })}</span>}
        {!isPage && view !== 'small' && (
          <a href={start.page} target="_blank" rel="noopener">
            {texts.openPage}
          </a>
        )}
        {look.subscribe && isShort && <a href={start.webcal}>{texts.subscribe}</a>}
        {isPage && (
          <span className="forms">
            <a href={`${start.page}/term${start.languageQuery}`}>{texts.termPlan}</a> <a href={start.feed}>iCalendar</a>{' '}
            <a href={`${start.page}/atom.xml`}>Atom</a> <a href={`${start.page}/dates.csv`}>CSV</a>{' '}
            <a href={`${start.page}/dates.json`}>JSON</a>
          </span>
        )}
      </footer>
    </OutletContext.Provider>
  );
};

const order = <T,>(items: T[], latestFirst: boolean): T[] => (latestFirst ? [...items].reverse() : items);
