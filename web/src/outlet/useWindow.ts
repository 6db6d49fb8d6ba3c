import { useEffect, useMemo, useState } from 'react';
import { addDays } from '../shared/dates';
import { onReadersClock, type OutletEvent, type OutletStart, type OutletWindow } from './model';

// The server gives this many days at once.
const MOST_DAYS = 120;

export const fetchWindow = (start: OutletStart, from: string, to: string, signal: AbortSignal) =>
  fetch(`${start.events}from=${from}&to=${to}`, { signal }).then((r) =>
    r.ok ? (r.json() as Promise<OutletWindow>) : Promise.reject(new Error(String(r.status))),
  );

const pieces = (from: string, to: string): [string, string][] => {
  const found: [string, string][] = [];
  for (let day = from; day < to; day = addDays(day, MOST_DAYS)) {
    const end = addDays(day, MOST_DAYS);
    found.push([day, end < to ? end : to]);
  }
  return found;
};

/** The events of a window: from the page itself when it holds them, else fetched. */
export const useWindow = (start: OutletStart, from: string, to: string) => {
  const [answer, setAnswer] = useState<{ key: string; events: OutletEvent[] | null } | null>(null);
  const [tries, setTries] = useState(0);
  // On another clock events may lie on the day before or after.
  const margin = start.look.readersZone ? 1 : 0;
  const [first, end] = [addDays(from, -margin), addDays(to, margin)];
  const isIn = start.window.from <= first && end <= start.window.to;
  const key = `${first} ${end} ${tries}`;
  useEffect(() => {
    if (isIn) return;
    const stop = new AbortController();
    Promise.all(pieces(first, end).map(([a, b]) => fetchWindow(start, a, b, stop.signal))).then(
      (found) => {
        // What reaches over the edge of two windows comes with both.
        const all = new Map(found.flatMap((w) => w.events).map((e) => [e.id, e]));
        setAnswer({ key, events: [...all.values()] });
      },
      () => {
        if (!stop.signal.aborted) setAnswer({ key, events: null });
      },
    );
    return () => stop.abort();
  }, [start, first, end, isIn, key]);
  const fetched = answer?.key === key ? answer.events : undefined;
  const source = isIn ? start.window.events : fetched;
  const events = useMemo(
    () => source?.map((e) => onReadersClock(e)).filter((e) => e.lastDay >= from && e.firstDay < to) ?? null,
    [source, from, to],
  );
  return { events, failed: source === null, retry: () => setTries(tries + 1) };
};
