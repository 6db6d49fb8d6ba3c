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

/** The days something is on before and after a window where nothing is. */
interface Around {
  next?: string;
  last?: string;
}

// A window within the one that came with the page: what lies beside it there, or beyond that.
const nearest = ({ window, beyond }: OutletStart, from: string, to: string): Around => ({
  next: [...window.events, ...beyond].find((e) => e.firstDay >= to)?.firstDay ?? window.next,
  last: window.events.findLast((e) => e.lastDay < from)?.firstDay ?? window.last,
});

/** The events of a window: from the page itself when it holds them, else fetched. */
export const useWindow = (start: OutletStart, from: string, to: string) => {
  const [answer, setAnswer] = useState<{ key: string; events: OutletEvent[] | null; around?: Around } | null>(null);
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
        setAnswer({ key, events: [...all.values()], around: { next: found.at(-1)?.next, last: found[0]?.last } });
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
  const around: Around = isIn ? nearest(start, from, to) : (answer?.key === key && answer.around) || {};
  return { events, around, failed: source === null, retry: () => setTries(tries + 1) };
};

const inLanguage = (query: string, start: OutletStart) =>
  query ? start.languageQuery.replace('?', '&') : start.languageQuery;

/** What is found in all that goes out: to come, and over. Asked when typing rests. */
export const useFound = (start: OutletStart, query: string, isOn: boolean) => {
  const [answer, setAnswer] = useState<{ key: string; coming: OutletEvent[]; past: OutletEvent[] } | 'failed' | null>(
    null,
  );
  const [tries, setTries] = useState(0);
  const key = `${query} ${tries}`;
  const address = start.search && `${start.search}${query}${inLanguage(query, start)}`;
  useEffect(() => {
    if (!isOn || !address) return;
    const stop = new AbortController();
    const rest = setTimeout(() => {
      fetch(address, { signal: stop.signal })
        .then((r) => (r.ok ? r.json() : Promise.reject(new Error(String(r.status)))))
        .then(
          (found: { coming: OutletEvent[]; past: OutletEvent[] }) => {
            setAnswer({ key, ...found });
          },
          () => {
            if (!stop.signal.aborted) setAnswer('failed');
          },
        );
    }, 250);
    return () => {
      clearTimeout(rest);
      stop.abort();
    };
  }, [address, isOn, key]);
  const failed = answer === 'failed';
  const found = !failed && answer?.key === key ? answer : null;
  return {
    found,
    failed,
    retry: () => {
      setAnswer(null);
      setTries(tries + 1);
    },
  };
};
