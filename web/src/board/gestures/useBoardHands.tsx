import {
  useEffect,
  useReducer,
  useRef,
  useSyncExternalStore,
  type ClipboardEvent,
  type KeyboardEvent,
  type PointerEvent,
  type ReactNode,
  type RefObject,
} from 'react';
import { api, asProblem, type Calendar, type EventData, type Occurrence, type Shift } from '../../shared/api/client';
import { addDays, clockText, dayRangeText, daysBetween, shortDay, type Day } from '../../shared/dates';
import { problemText, useTexts } from '../../shared/i18n';
import { useUndo } from '../../shared/data/undo';
import { useActions } from '../../shared/data/actions';
import { occurrenceKey } from '../../shared/occurrences';
import { isChosen, type Chosen } from '../selection';
import { addShift, dropLeft, isNoShift, NO_SHIFT, shiftedDays, type Moving } from './shift';
import { useOneStop } from './useOneStop';
import { CLOCK_STEP, clockOfPlace, useDrag, type Drag, type DragStore, type Place } from './useDrag';

interface Options {
  /** The board's element. */
  board: RefObject<HTMLDivElement | null>;
  calendars: Calendar[];
  occurrences: Occurrence[];
  chosen: Chosen | null;
  onChoose: (chosen: Chosen) => void;
  /** Days or a time were drawn over empty places. */
  onDraw: (first: Place, last: Place) => void;
  /** What an entry moves by when Alt is held with an arrow key; null for nothing. */
  step: (key: string, occurrence: Occurrence) => Shift | null;
}

// What was copied, for every board: it outlives a change of the form.
let copied: Occurrence | null = null;

const keyOf = (element: EventTarget | null): string | undefined =>
  element instanceof HTMLElement ? element.closest<HTMLElement>('[data-entry]')?.dataset.entry : undefined;

/** Whether a sheet lies over an entry, as on a phone. */
const isCovered = (entry: HTMLElement): boolean => {
  const { left, top, width, height } = entry.getBoundingClientRect();
  return Boolean(document.elementFromPoint(left + width / 2, top + height / 2)?.closest('.sheet'));
};

/** Everything that is done to entries on the board itself, by mouse and by keys; the same for every form. */
export const useBoardHands = ({ board, calendars, occurrences, chosen, onChoose, onDraw, step }: Options) => {
  const { t, language } = useTexts();
  const actions = useActions();
  const { tell, during } = useUndo();
  const focusNext = useRef<string | null>(null);
  const [, redraw] = useReducer((n: number) => n + 1, 0);
  /** From when it is shown where it lies now. */
  const focusOn = (event: EventData | null) => {
    if (!event) return;
    focusNext.current = `${event.id} ${event.timing.start}`;
    redraw();
  };

  // An event that was moved by keys keeps the focus where it lies then, however often the board is drawn until the
  // person does something else.
  useEffect(() => {
    if (!focusNext.current) return;
    const moved = board.current?.querySelector<HTMLElement>(`[data-entry="${focusNext.current}"]`);
    const active = document.activeElement;
    if (moved && active !== moved && (active === document.body || board.current?.contains(active))) moved.focus();
  });
  const release = () => {
    focusNext.current = null;
  };
  // The sheet that opens for a series takes the focus: further steps are made where the first one was.
  const steppedOn = useRef<Element | null>(null);
  useEffect(() => {
    const entry = steppedOn.current;
    steppedOn.current = null;
    if (entry instanceof HTMLElement && !isCovered(entry)) entry.focus({ preventScroll: true });
  });

  const run = (work: () => Promise<void>) => {
    during(work()).catch((error: unknown) => tell(problemText(t, asProblem(error))));
  };

  const going = useRef(new Map<string, Moving>());
  /** One-time events go at once, with undo; of a series the sheet asks which dates are meant. */
  const shift = (o: Occurrence, by: Shift, isDrop = false) => {
    if (isNoShift(by)) return;
    if (o.isSeries) {
      onChoose({ kind: 'event', occurrence: o, shift: by });
      return;
    }
    // One step after the other, each of the event as it is then; what is pressed meanwhile is the next one.
    const known = going.current.get(o.eventId);
    if (known) {
      known.left = isDrop ? dropLeft(by, o, known) : addShift(known.left, by);
      return;
    }
    const under = { began: o, sent: NO_SHIFT, left: by };
    going.current.set(o.eventId, under);
    run(async () => {
      try {
        while (!isNoShift(under.left)) {
          const step = under.left;
          [under.sent, under.left] = [addShift(under.sent, step), NO_SHIFT];
          const { event, typed } = await api.fields(o.eventId, { date: o.date, scope: 'everyDate', shift: step });
          await actions.moveEvent(event, { ...typed, scope: 'everyDate' }, focusOn);
        }
      } finally {
        going.current.delete(o.eventId);
      }
    });
  };
  /** How far the steps before lead, as far as they are not to be seen yet. */
  const soFar = (o: Occurrence): Shift | undefined => {
    if (o.isSeries) return chosen?.kind === 'event' && isChosen(chosen, o) ? chosen.shift : undefined;
    const under = going.current.get(o.eventId);
    return under && addShift(under.sent, under.left);
  };

  /** One-time events are there at once, with undo; of a series it is asked whether all of it is meant. */
  const copy = (o: Occurrence, by: Shift) => {
    if (o.isSeries) {
      onChoose({ kind: 'copy', occurrence: o, shift: by });
      return;
    }
    run(async () => {
      await actions.copyEvent(o.eventId, { date: o.date, isSeries: false, shift: by }, null, focusOn);
    });
  };

  const onDrop = (drag: Drag) => {
    if (drag.kind === 'draw') onDraw(drag.first, drag.last);
    else if (drag.copy) copy(drag.occurrence, drag.shift);
    else shift(drag.occurrence, drag.shift, drag.kind === 'move');
  };
  const { going: dragged, handlers } = useDrag({ board, occurrences, onDrop });
  const { onFocus, onArrow } = useOneStop(board);

  const onKeyDown = (e: KeyboardEvent<HTMLElement>) => {
    if (!['Alt', 'Shift', 'Control', 'Meta'].includes(e.key)) release();
    onArrow(e);
    const key = keyOf(e.target);
    const o = key && occurrences.find((other) => occurrenceKey(other) === key);
    if (o && e.key.toLowerCase() === 'd' && !e.altKey && !e.ctrlKey && !e.metaKey && !e.shiftKey) {
      e.preventDefault();
      onChoose({ kind: 'copy', occurrence: o, shift: null });
      return;
    }
    // What is open already is gone into.
    if (o && e.key === 'Enter' && !e.altKey && isChosen(chosen, o)) {
      e.preventDefault();
      document.querySelector<HTMLElement>('.sheet')?.focus();
      return;
    }
    if (!o || !e.altKey || e.ctrlKey || e.metaKey) return;
    const before = soFar(o);
    const there = before ? { ...o, calendarId: before.calendarId ?? o.calendarId, place: before.place ?? o.place } : o;
    const by = e.shiftKey ? longer(o, e.key) : step(e.key, there);
    if (!by) return;
    e.preventDefault();
    e.stopPropagation();
    if (!o.isSeries) {
      shift(o, by);
      return;
    }
    // Of a series the steps add up in the sheet until it is saved, back to where they began as well.
    steppedOn.current = document.activeElement;
    onChoose({ kind: 'event', occurrence: o, shift: before ? addShift(before, by) : by });
  };

  const onCopy = (e: ClipboardEvent) => {
    const key = keyOf(document.activeElement);
    const o = key && occurrences.find((other) => occurrenceKey(other) === key);
    if (!o || !getSelection()?.isCollapsed) return;
    e.preventDefault();
    copied = o;
    e.clipboardData.setData(
      'text/plain',
      [o.title, shortDay(o.firstDay, language), o.place].filter(Boolean).join(', '),
    );
    tell(t('hands.copied', { title: o.title }));
  };
  const onPaste = (e: ClipboardEvent) => {
    const cell = e.target instanceof HTMLElement ? e.target.closest<HTMLElement>('[data-day]') : null;
    if (!copied || !cell?.dataset.day || (e.target as HTMLElement).closest('.line-entry')) return;
    e.preventDefault();
    copy(copied, {
      ...NO_SHIFT,
      days: daysBetween(copied.firstDay, cell.dataset.day),
      calendarId: cell.dataset.lane ?? null,
      place: cell.dataset.place ?? null,
    });
  };

  const ghost: ReactNode = <Ghost going={dragged} calendars={calendars} />;
  return {
    ghost,
    handlers: {
      ...handlers,
      onPointerDown: (e: PointerEvent<HTMLElement>) => {
        release();
        handlers.onPointerDown(e);
      },
      onKeyDown,
      onFocus,
      onCopy,
      onPaste,
    },
  };
};

/** What is dragged, beside the pointer. */
const Ghost = ({ going, calendars }: { going: DragStore; calendars: Calendar[] }) => {
  const { language } = useTexts();
  const drag = useSyncExternalStore(going.subscribe, going.get);
  return drag ? (
    <div className="drag-ghost" style={{ left: drag.x + 14, top: drag.y + 16 }} role="status">
      {drag.kind === 'draw' ? spanText(drag.first, drag.last, language) : <Going drag={drag} calendars={calendars} />}
    </div>
  ) : null;
};

/** Alt and Shift with an arrow: a day longer or shorter, or a quarter of an hour. */
const longer = (o: Occurrence, key: string): Shift | null => {
  const sign = key === 'ArrowRight' || key === 'ArrowDown' ? 1 : key === 'ArrowLeft' || key === 'ArrowUp' ? -1 : 0;
  if (!sign) return null;
  return o.allDay ? { ...NO_SHIFT, longerDays: sign } : { ...NO_SHIFT, longerMinutes: sign * CLOCK_STEP };
};

const spanText = (first: Place, last: Place, language: string): string => {
  if (first.minute === null || last.minute === null) return dayRangeText(first.day, last.day, language);
  const end = { ...last, minute: last.minute + CLOCK_STEP };
  const clock = (place: Place) => clockText(`${place.day}T${clockOfPlace(place)}`, language);
  return `${shortDay(first.day, language)} ${clock(first)}–${clock(end)}`;
};

/** Where what is dragged would come to lie. */
const Going = ({ drag, calendars }: { drag: Exclude<Drag, { kind: 'draw' }>; calendars: Calendar[] }) => {
  const { t, language } = useTexts();
  const { occurrence: o, shift, copy, kind } = drag;
  const { first, last } = shiftedDays(o, shift);
  const clock = (time: string, minutes: number) => {
    const total = Number(time.slice(11, 13)) * 60 + Number(time.slice(14, 16)) + minutes;
    const day: Day = addDays(time.slice(0, 10), Math.floor(total / 1440));
    return clockText(
      `${day}T${clockOfPlace({ day, calendarId: null, minute: ((total % 1440) + 1440) % 1440 })}`,
      language,
    );
  };
  const when = o.allDay
    ? dayRangeText(first, last, language)
    : `${shortDay(first, language)} ${clock(o.start, shift.minutes)}–${clock(o.end, shift.minutes + shift.longerMinutes)}`;
  const calendar = shift.calendarId && calendars.find((c) => c.id === shift.calendarId)?.title;
  return (
    <>
      <strong>{o.title}</strong> {copy && kind === 'move' ? `${t('hands.copy')} ` : ''}→ {when}
      {calendar && ` · ${calendar}`}
      {shift.place !== null && ` · ${shift.place || t('lanes.noPlace')}`}
    </>
  );
};
