import { useEffect, useEffectEvent, useRef, useState, type PointerEvent, type RefObject } from 'react';
import type { Occurrence, Shift } from '../../shared/api/client';
import { addDays, addMinutes, at, clockOf, daysBetween, minutesBetween, type Day } from '../../shared/dates';
import { occurrenceKey } from '../../shared/occurrences';
import { NO_SHIFT } from './shift';

/** A place on the board under the pointer. */
export interface Place {
  day: Day;
  /** The row's calendar; null where a place is any calendar's. */
  calendarId: string | null;
  /** The row's place, where rows are places. */
  place?: string | null;
  /** Minutes since midnight, where the board has a clock. */
  minute: number | null;
}

export type Drag =
  | { kind: 'move' | 'stretch'; occurrence: Occurrence; shift: Shift; copy: boolean; x: number; y: number }
  | { kind: 'draw'; first: Place; last: Place; x: number; y: number };

interface Options {
  board: RefObject<HTMLElement | null>;
  occurrences: Occurrence[];
  onDrop: (drag: Drag) => void;
}

const THRESHOLD = 6;
const EDGE = 36;
export const CLOCK_STEP = 15;

/** Minutes of a pointer over a column that stands for a day's clock. */
const minuteAt = (column: HTMLElement, y: number): number => {
  const box = column.getBoundingClientRect();
  const minute = ((y - box.top) / box.height) * 1440;
  return Math.max(0, Math.min(1440 - CLOCK_STEP, Math.floor(minute / CLOCK_STEP) * CLOCK_STEP));
};

const placeAt = (x: number, y: number): Place | null => {
  for (const element of document.elementsFromPoint(x, y)) {
    const cell = element instanceof HTMLElement ? element.closest<HTMLElement>('[data-day]') : null;
    if (cell?.dataset.day)
      return {
        day: cell.dataset.day,
        calendarId: cell.dataset.lane ?? null,
        place: cell.dataset.place ?? null,
        minute: cell.dataset.clock === undefined ? null : minuteAt(cell, y),
      };
  }
  return null;
};

const inOrder = (a: Place, b: Place): [Place, Place] => {
  const value = (p: Place) => at(p.day, '00:00') + String(p.minute ?? 0).padStart(4, '0');
  return value(a) <= value(b) ? [a, b] : [b, a];
};

const moved = (occurrence: Occurrence, from: Place, to: Place): Shift => ({
  ...NO_SHIFT,
  days: daysBetween(from.day, to.day),
  minutes: occurrence.allDay || from.minute === null || to.minute === null ? 0 : to.minute - from.minute,
  // Where it stands beside its own calendar it is moved in time only.
  calendarId:
    from.calendarId !== occurrence.calendarId || to.calendarId === occurrence.calendarId ? null : to.calendarId,
  place: from.place === to.place ? null : (to.place ?? null),
});

const stretched = (occurrence: Occurrence, to: Place): Shift => {
  if (occurrence.allDay || to.minute === null)
    return {
      ...NO_SHIFT,
      longerDays: Math.max(
        daysBetween(occurrence.lastDay, to.day),
        daysBetween(occurrence.lastDay, occurrence.firstDay),
      ),
    };
  const end = addMinutes(at(to.day, '00:00'), to.minute + CLOCK_STEP);
  return { ...NO_SHIFT, longerMinutes: minutesBetween(occurrence.end, end) };
};

/** Marks the cells that something would come to lie on. */
const markTargets = (board: HTMLElement, first: Place | null, last: Place | null) => {
  for (const cell of board.querySelectorAll<HTMLElement>('[data-target]')) delete cell.dataset.target;
  if (!first || !last) return;
  for (const cell of board.querySelectorAll<HTMLElement>('[data-day]')) {
    const { day = '', lane, clock } = cell.dataset;
    if (clock === undefined && first.day <= day && day <= last.day && (lane ?? null) === first.calendarId)
      cell.dataset.target = '';
  }
};

/** What is being dragged, for whoever draws it. */
export interface DragStore {
  get: () => Drag | null;
  set: (drag: Drag | null) => void;
  subscribe: (listener: () => void) => () => void;
}

const dragStore = (): DragStore => {
  let drag: Drag | null = null;
  const listeners = new Set<() => void>();
  return {
    get: () => drag,
    set: (next) => {
      drag = next;
      for (const listener of listeners) listener();
    },
    subscribe: (listener) => {
      listeners.add(listener);
      return () => listeners.delete(listener);
    },
  };
};

/**
 * Moving and stretching of entries and drawing over empty cells, by mouse or pen. Entries carry `data-entry`, handles
 * `data-stretch`, cells `data-day` and where it matters `data-lane` and `data-clock`. A finger scrolls; what it would
 * drag is done in the sheet.
 */
export const useDrag = ({ board, occurrences, onDrop }: Options) => {
  // Kept beside what is drawn: a pointer that moves draws the ghost alone, never the board.
  const [going] = useState(() => dragStore());
  const begun = useRef<{ x: number; y: number; place: Place; occurrence: Occurrence | null; stretch: boolean } | null>(
    null,
  );
  const current = useRef<Drag | null>(null);

  const show = (next: Drag | null) => {
    current.current = next;
    going.set(next);
    if (!board.current) return;
    board.current.toggleAttribute('data-dragging', next !== null);
    if (!next) markTargets(board.current, null, null);
    else if (next.kind === 'draw') markTargets(board.current, next.first, next.last);
    else {
      const { occurrence: o, shift } = next;
      const lane = board.current.querySelector('[data-lane]') ? (shift.calendarId ?? o.calendarId) : null;
      const row = shift.place ?? begun.current?.place.place ?? null;
      const place = (day: Day): Place => ({ day, calendarId: lane, place: row, minute: null });
      const first = addDays(o.firstDay, shift.days);
      markTargets(board.current, place(first), place(addDays(o.lastDay, shift.days + shift.longerDays)));
    }
  };
  const end = () => {
    begun.current = null;
    show(null);
  };

  const cancel = useEffectEvent((e: KeyboardEvent) => {
    if (e.key !== 'Escape' || !current.current) return;
    e.preventDefault();
    e.stopPropagation();
    end();
  });
  useEffect(() => {
    const onKey = (e: KeyboardEvent) => cancel(e);
    addEventListener('keydown', onKey, true);
    return () => removeEventListener('keydown', onKey, true);
  }, []);

  const onPointerDown = (e: PointerEvent<HTMLElement>) => {
    if (e.button !== 0 || e.pointerType === 'touch' || !(e.target instanceof Element)) return;
    if (e.target.closest('.line-entry, .calendar-picker, .cell-more, .lane-head')) return;
    const place = placeAt(e.clientX, e.clientY);
    const key = e.target.closest<HTMLElement>('[data-entry]')?.dataset.entry;
    const occurrence = key ? (occurrences.find((o) => occurrenceKey(o) === key) ?? null) : null;
    if (!place || (key && !occurrence)) return;
    begun.current = {
      x: e.clientX,
      y: e.clientY,
      place,
      occurrence,
      stretch: e.target.closest('[data-stretch]') !== null,
    };
  };

  const onPointerMove = (e: PointerEvent<HTMLElement>) => {
    const from = begun.current;
    if (!from) return;
    if (e.buttons === 0) {
      end();
      return;
    }
    if (!current.current && Math.hypot(e.clientX - from.x, e.clientY - from.y) < THRESHOLD) return;
    if (!current.current) e.currentTarget.setPointerCapture(e.pointerId);
    const box = e.currentTarget.getBoundingClientRect();
    if (e.clientY < box.top + EDGE) e.currentTarget.scrollBy(0, -12);
    else if (e.clientY > box.bottom - EDGE) e.currentTarget.scrollBy(0, 12);
    const place = placeAt(e.clientX, e.clientY);
    if (!place) return;
    const at = { x: e.clientX, y: e.clientY };
    if (!from.occurrence) {
      if (place.calendarId !== from.place.calendarId || place.place !== from.place.place) return;
      const [first, last] = inOrder(from.place, place);
      show({ kind: 'draw', first, last, ...at });
    } else {
      const shift = from.stretch ? stretched(from.occurrence, place) : moved(from.occurrence, from.place, place);
      show({
        kind: from.stretch ? 'stretch' : 'move',
        occurrence: from.occurrence,
        shift,
        copy: !from.stretch && (e.ctrlKey || e.altKey),
        ...at,
      });
    }
  };

  const onPointerUp = () => {
    const done = current.current;
    end();
    if (!done) return;
    // What was let go of is not also clicked.
    const stop = (e: MouseEvent) => e.stopPropagation();
    addEventListener('click', stop, { capture: true, once: true });
    setTimeout(() => removeEventListener('click', stop, { capture: true }), 0);
    onDrop(done);
  };

  return { going, handlers: { onPointerDown, onPointerMove, onPointerUp, onPointerCancel: end } };
};

/** The clock a place stands for. */
export const clockOfPlace = (place: Place): string => clockOf(addMinutes(at(place.day, '00:00'), place.minute ?? 0));
