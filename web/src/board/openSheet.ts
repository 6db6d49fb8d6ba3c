import { useEffect } from 'react';
import type { Chosen } from './selection';

const OPEN = 'valtro.open';

/** The sheet that was open when the page was left. */
export const openSheet = (): Chosen | null => {
  const text = sessionStorage.getItem(OPEN);
  return text ? (JSON.parse(text) as Chosen) : null;
};

/** Remembers which sheet is open. */
export const useKeepOpen = (chosen: Chosen | null) => {
  const text = chosen && JSON.stringify(chosen);
  useEffect(() => {
    if (text) sessionStorage.setItem(OPEN, text);
    else sessionStorage.removeItem(OPEN);
  }, [text]);
};
