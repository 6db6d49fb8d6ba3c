import { useEffect, useRef, type FocusEvent, type KeyboardEvent, type RefObject } from 'react';

const ARROWS: Record<string, [number, number]> = {
  ArrowLeft: [-1, 0],
  ArrowRight: [1, 0],
  ArrowUp: [0, -1],
  ArrowDown: [0, 1],
};

/** What is typed into or opened over the board has stops of its own. */
const APART = '.line-entry, .calendar-picker, .dropdown-menu, .list-filters, .bulk, .lanes-hidden, .board-empty';
const FIELDS = '[data-day], .lane-head, .lane-group, tr';
const STOPS = 'button, a[href], input';

const isThere = (element: Element) => element.getClientRects().length > 0 && !element.closest(APART);

const middle = (element: Element) => {
  const box = element.getBoundingClientRect();
  return { x: box.left + box.width / 2, y: box.top + box.height / 2, box };
};

/** The nearest field of the board in a direction; what lies straight ahead comes before what lies aside. */
const fieldBeside = (fields: Element[], from: Element, [x, y]: [number, number]): Element | null => {
  const here = middle(from);
  let nearest: Element | null = null;
  let least = Infinity;
  for (const field of fields) {
    if (field === from || field.contains(from) || from.contains(field)) continue;
    const there = middle(field);
    const ahead = x ? (there.x - here.x) * x : (there.y - here.y) * y;
    const past = x
      ? x > 0
        ? there.box.left >= here.box.right - 4
        : there.box.right <= here.box.left + 4
      : y > 0
        ? there.box.top >= here.box.bottom - 4
        : there.box.bottom <= here.box.top + 4;
    if (!past || ahead <= 0) continue;
    const aside = x ? Math.abs(there.y - here.y) : Math.abs(there.x - here.x);
    const far = ahead + aside * 4;
    if (far < least) [nearest, least] = [field, far];
  }
  return nearest;
};

/**
 * A board is one stop for the Tab key: inside, arrows go from day to day, and through what stands on a day. The stop stays
 * where the person left it.
 */
export const useOneStop = (board: RefObject<HTMLElement | null>) => {
  const current = useRef<HTMLElement | null>(null);

  const stopsIn = (field: Element): HTMLElement[] => [...field.querySelectorAll<HTMLElement>(STOPS)].filter(isThere);
  const fieldsOf = (box: HTMLElement): Element[] =>
    [...box.querySelectorAll(FIELDS)].filter((field) => stopsIn(field).length > 0);
  /** An event over several days lies over the cells; it belongs to the one it begins in. */
  const beginsIn = (field: Element, element: HTMLElement): boolean => {
    const [{ left, top, height }, r] = [element.getBoundingClientRect(), field.getBoundingClientRect()];
    return r.left <= left + 8 && left + 8 < r.right && r.top <= top + height / 2 && top + height / 2 < r.bottom;
  };
  const fieldOf = (box: HTMLElement, element: HTMLElement): Element | null =>
    element.closest(FIELDS) ?? fieldsOf(box).find((field) => beginsIn(field, element)) ?? null;
  const stopsOf = (box: HTMLElement, field: Element): HTMLElement[] => {
    const laid = [...box.querySelectorAll<HTMLElement>('.bar-place button')].filter((bar) => beginsIn(field, bar));
    const [add, ...others] = stopsIn(field);
    return add ? [add, ...laid, ...others] : laid;
  };

  useEffect(() => {
    const box = board.current;
    if (!box) return;
    const tidy = () => {
      const stops = [...box.querySelectorAll<HTMLElement>(STOPS)].filter((stop) => !stop.closest(APART));
      const kept = current.current && stops.includes(current.current) ? current.current : null;
      const stop = kept ?? stops.find((s) => s.closest('.is-today') && isThere(s)) ?? stops.find(isThere);
      for (const other of stops) {
        const index = other === stop ? 0 : -1;
        if (other.tabIndex !== index) other.tabIndex = index;
      }
    };
    tidy();
    // Whatever is drawn later, by whom it may be, is no stop of its own.
    const drawn = new MutationObserver(tidy);
    drawn.observe(box, { childList: true, subtree: true });
    return () => drawn.disconnect();
  }, [board]);

  const onFocus = (e: FocusEvent) => {
    const box = board.current;
    if (!box || !(e.target instanceof HTMLElement) || e.target.closest(APART) || !e.target.matches(STOPS)) return;
    for (const stop of box.querySelectorAll<HTMLElement>(`:is(${STOPS})[tabindex="0"]`))
      if (!stop.closest(APART)) stop.tabIndex = -1;
    e.target.tabIndex = 0;
    current.current = e.target;
  };

  const onArrow = (e: KeyboardEvent<HTMLElement>) => {
    const way = ARROWS[e.key];
    const box = board.current;
    const { target } = e;
    if (!way || !box || e.altKey || e.ctrlKey || e.metaKey || e.shiftKey || e.defaultPrevented) return;
    if (!(target instanceof HTMLElement) || target.closest(APART) || !target.matches(STOPS)) return;
    const field = fieldOf(box, target);
    if (!field) return;
    const stops = stopsOf(box, field);
    const at = stops.indexOf(target);
    // Through what stands in the field: downwards on a day, sideways in a row and its head.
    const within = field.matches('.lane-head, .lane-group, tr') ? way[0] : way[1];
    const beside = within ? stops[at + within] : undefined;
    const next = beside ?? stopsOf(box, fieldBeside(fieldsOf(box), field, way) ?? field)[0];
    if (!next || next === target) return;
    e.preventDefault();
    next.focus();
    next.scrollIntoView({ block: 'nearest', inline: 'nearest' });
  };
  return { onFocus, onArrow };
};
