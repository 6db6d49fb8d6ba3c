import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { useRef, type CSSProperties } from 'react';
import { api, type Lists, type Occurrence } from '../../shared/api/client';
import { addDays, dayRange, longDay, weekday, type Day } from '../../shared/dates';
import { isChosen } from '../selection';
import { useTexts } from '../../shared/i18n';
import { BarPlace } from './BarPlace';
import { seenIn } from './seenIn';
import type { BoardProps } from '../boardProps';
import { DayHead } from './DayHead';
import { newDraft } from '../../event/draft/draft';
import { Entry } from './Entry';
import { linesOn, onDay, packBars } from './layout';
import { isOnlyProposed, occurrenceKey } from '../../shared/occurrences';
import { mayEdit } from '../../shared/data/rights';
import { NO_SHIFT } from '../gestures/shift';
import { useBoardHands } from '../gestures/useBoardHands';
import { placeNamed, useLists } from '../../shared/data/useLists';
import './lanes.scss';

interface Row {
  /** What the row's events have as their place; empty for those without one. */
  place: string;
  holds: number | null;
  isListed: boolean;
}

/** The school's places in their order, then the others that are used, and last what has no place. */
export const placeRows = (lists: Lists, occurrences: Occurrence[]): Row[] => {
  const others = new Map<string, string>();
  for (const { place } of occurrences)
    if (place.trim() && !placeNamed(lists, place)) others.set(place.trim().toLowerCase(), place.trim());
  return [
    ...lists.places.map((p) => ({ place: p.name, holds: p.capacity, isListed: true })),
    ...[...others.values()]
      .sort((a, b) => a.localeCompare(b))
      .map((place) => ({ place, holds: null, isListed: false })),
    ...(occurrences.some((o) => !o.place.trim()) ? [{ place: '', holds: null, isListed: false }] : []),
  ];
};

/** The row an occurrence stands in. */
export const placeOf = (lists: Lists, occurrence: Occurrence, rows: Row[]): string =>
  placeNamed(lists, occurrence.place)?.name ??
  rows.find((r) => r.place.toLowerCase() === occurrence.place.trim().toLowerCase())?.place ??
  '';

/** A row a place, a column a day: which rooms are used, and where two have one at once. */
export const PlaceLanes = ({ data, calendars, from, days, today, chosen, onChoose }: BoardProps) => {
  const { t, language } = useTexts();
  const lists = useLists();
  const board = useRef<HTMLDivElement>(null);
  const shown = dayRange(from, days);
  const info = new Map(data.days.map((day) => [day.date, day]));
  const { seen: visible, calendarOf } = seenIn(data.occurrences, calendars, from, days);
  const rows = placeRows(lists, visible);
  const to = addDays(from, days);
  const taken = useQuery({
    queryKey: ['shared-places', from, to],
    queryFn: () => api.sharedPlaces(from, to),
    placeholderData: keepPreviousData,
  }).data;
  /** How many dates of a row have the place at one time with another one. */
  const atOnce = (row: Row, own: Occurrence[], day: Day): number => {
    if (!row.place) return 0;
    const shared = new Set(
      taken
        ?.filter((pair) => pair.firstDay <= day && day <= pair.lastDay)
        .flatMap((pair) => pair.dates.map((d) => `${d.eventId} ${d.date}`)),
    );
    return own.filter((o) => shared.has(occurrenceKey(o))).length;
  };
  const hands = useBoardHands({
    board,
    calendars: data.calendars,
    // What one may only read stays where it is.
    occurrences: visible.filter(
      (o) => !isOnlyProposed(o) && mayEdit(data.calendars.find((c) => c.id === o.calendarId)),
    ),
    chosen,
    onChoose,
    onDraw: (first, last) => add(first.place ?? '', first.day, last.day),
    step: (key, o) => {
      const sideways = key === 'ArrowRight' ? 1 : key === 'ArrowLeft' ? -1 : 0;
      if (sideways) return { ...NO_SHIFT, days: sideways };
      const at = rows.findIndex((r) => r.place === placeOf(lists, o, rows));
      const other = key === 'ArrowDown' ? rows[at + 1] : key === 'ArrowUp' ? rows[at - 1] : undefined;
      return other ? { ...NO_SHIFT, place: other.place } : null;
    },
  });
  const add = (place: string, day: Day, lastDay = day) =>
    // A place says nothing of the calendar, so it is asked for.
    onChoose({ kind: 'new-event', draft: { ...newDraft('', day), place, lastDay } });
  const dayClass = (day: Day) =>
    [day === today && 'is-today', info.get(day)?.closure && 'is-closed', weekday(day) > 5 && 'is-weekend']
      .filter(Boolean)
      .join(' ');

  return (
    <div
      className="board lanes place-lanes"
      ref={board}
      style={{ '--columns': `repeat(${days}, minmax(100px, 1fr))`, '--days': days } as CSSProperties}
      {...hands.handlers}
    >
      {hands.ghost}
      <div className="lane lane-heads">
        <div className="lane-head">
          <span className="quiet">{t('lanes.places')}</span>
        </div>
        {shown.map((day) => (
          <DayHead key={day} day={day} info={info.get(day)} className={dayClass(day)} quiet={false} />
        ))}
      </div>
      {rows.map((row) => {
        const own = visible.filter((o) => placeOf(lists, o, rows) === row.place);
        const bars = packBars(own, from, days);
        const name = row.place || t('lanes.noPlace');
        return (
          <div key={row.place} role="group" aria-label={name} className="lane">
            <div className="lane-head">
              <span className="lane-name">
                {name}
                {row.holds !== null && <span className="quiet">{t('place.holds', { count: row.holds })}</span>}
                {!row.isListed && row.place && <span className="quiet">{t('lanes.notListed')}</span>}
              </span>
            </div>
            {shown.map((day, column) => {
              const both = atOnce(row, own, day);
              return (
                <div
                  key={day}
                  data-day={day}
                  data-place={row.place}
                  className={`cell ${dayClass(day)}${both > 0 ? ' is-taken-twice' : ''}`}
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
                    aria-label={t('lanes.addAt', { place: name, day: longDay(day, language) })}
                    onClick={() => add(row.place, day)}
                  />
                  {onDay(own, day).map((o) => {
                    const calendar = calendarOf(o);
                    return (
                      calendar && (
                        <Entry
                          key={occurrenceKey(o)}
                          isByPlace
                          occurrence={o}
                          calendar={calendar}
                          isChosen={isChosen(chosen, o)}
                          onChoose={onChoose}
                        />
                      )
                    );
                  })}
                  {both > 0 && <span className="taken-twice">{t('lanes.atOnce', { count: both })}</span>}
                </div>
              );
            })}
            {bars.map((bar) => {
              const calendar = calendarOf(bar.occurrence);
              return (
                calendar && (
                  <BarPlace
                    key={occurrenceKey(bar.occurrence)}
                    isByPlace
                    bar={bar}
                    calendar={calendar}
                    chosen={chosen}
                    onChoose={onChoose}
                  />
                )
              );
            })}
          </div>
        );
      })}
    </div>
  );
};
