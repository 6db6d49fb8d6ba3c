import { useEffect, useRef } from 'react';

const ownNameOf = (element: Element | null): string | null => {
  const entry = element instanceof HTMLElement ? element.dataset.entry : undefined;
  return entry === undefined ? null : `[data-entry="${entry}"]`;
};

/**
 * While something lies over the rest: the focus comes from where it was opened and goes back there when it closes, to the day
 * it stood on where the thing itself is gone.
 */
export const useFocusBack = () => {
  const from = useRef<{ element: Element; name: string | null; day: Element | null } | null>(null);
  useEffect(() => {
    return () => {
      const { element, name, day } = from.current ?? {};
      // What closes is still there for a moment; a person who has gone elsewhere meanwhile stays there.
      requestAnimationFrame(() => {
        if (document.activeElement && document.activeElement !== document.body) return;
        const back = element?.isConnected
          ? element
          : ((name && document.querySelector(name)) ?? (day?.isConnected ? day.querySelector('.cell-add') : null));
        if (back instanceof HTMLElement) back.focus();
      });
    };
  }, []);
  /** Called before the focus goes into what was opened. */
  return (opened: Element | null) => {
    const element = document.activeElement;
    if (from.current || !element || element === document.body || opened?.contains(element)) return;
    from.current = { element, name: ownNameOf(element), day: element.closest('[data-day]') };
  };
};
