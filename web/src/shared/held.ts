import { notifyManager } from '@tanstack/react-query';

// So far a hand that presses may move; what moves further is dragged.
const STEADY_PX = 8;
// Whatever became of the pointer, nobody waits longer.
const LONGEST_MS = 3_000;
// The click of a finger comes a little after it is lifted.
const CLICK_MS = 40;

let pressed: { x: number; y: number; over: AbortController } | null = null;
let lifted = 0;
const waiting: (() => void)[] = [];

const letGo = () => {
  clearTimeout(lifted);
  pressed?.over.abort();
  pressed = null;
  for (const show of waiting.splice(0)) show();
};

const press = (e: PointerEvent) => {
  // Another button is not always told that it was let go, nor is one on a list that the browser opens.
  if (e.button !== 0 || !e.isPrimary || (e.target instanceof Element && e.target.closest('select'))) return;
  // Pressed twice, what waits goes on waiting.
  clearTimeout(lifted);
  pressed?.over.abort();
  const over = new AbortController();
  const on = <K extends keyof WindowEventMap>(name: K, heard: (e: WindowEventMap[K]) => void) =>
    addEventListener(name, heard, { signal: over.signal, capture: true });
  const longest = setTimeout(letGo, LONGEST_MS);
  over.signal.addEventListener('abort', () => clearTimeout(longest));
  pressed = { x: e.clientX, y: e.clientY, over };
  on('pointerup', () => {
    lifted = window.setTimeout(letGo, CLICK_MS);
  });
  on('pointermove', ({ clientX, clientY }) => {
    if (pressed && Math.hypot(clientX - pressed.x, clientY - pressed.y) > STEADY_PX) letGo();
  });
  for (const end of ['pointercancel', 'contextmenu', 'blur'] as const) on(end, letGo);
};

/** Shows something at once; while something is pressed, when it is let go. */
export const whenFree = (show: () => void): void => {
  if (pressed) waiting.push(show);
  else show();
};

/**
 * From now on nothing that is answered is shown while something is pressed: what is pressed may neither move nor go before it is let
 * go, or the press is lost. Whoever drags sees what comes.
 */
export const holdWhilePressed = (): void => {
  addEventListener('pointerdown', press, { capture: true });
  notifyManager.setScheduler((show) => setTimeout(() => whenFree(show), 0));
};
