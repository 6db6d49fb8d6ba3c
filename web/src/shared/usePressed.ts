import { useState, type PointerEvent } from 'react';

/**
 * Whether a pointer is down on something: what is pressed may neither move nor go before it is let go, or the press is lost. The
 * answers of questions that are shown there wait so long (`while`).
 */
export const usePressed = () => {
  const [isPressed, setPressed] = useState(false);
  const onPointerDown = (e: PointerEvent) => {
    // Of another button it is not always told that it was let go, as when a menu of the browser opens.
    if (e.button !== 0) return;
    setPressed(true);
    const over = new AbortController();
    // The click comes after it.
    const free = () => {
      over.abort();
      setTimeout(() => setPressed(false));
    };
    addEventListener('pointerup', free, { signal: over.signal });
    addEventListener('pointercancel', free, { signal: over.signal });
  };
  return { isPressed, onPointerDown };
};

/** For a question whose answer is not to be shown at the moment. */
export const notNow: [] = [];
