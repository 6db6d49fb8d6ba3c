import { useQueryClient } from '@tanstack/react-query';
import { useEffect, useState } from 'react';

/** What this screen did itself it has shown already. */
let lastOwn = 0;
export const didItself = () => {
  lastOwn = Date.now();
};

const OWN_MS = 3_000;
const AGAIN_MS = 3_000;

/**
 * Follows what others change while the screen is open; tells whether the connection is lost. It is made again by itself,
 * and then everything is looked at anew.
 */
export const useLive = (): boolean => {
  const queries = useQueryClient();
  const [lost, setLost] = useState(false);
  useEffect(() => {
    let source: EventSource;
    let wasLost = false;
    let again: number | undefined;
    const refresh = () => void queries.invalidateQueries();
    const open = () => {
      source = new EventSource('/api/changes');
      source.addEventListener('ready', () => {
        if (wasLost) refresh();
        wasLost = false;
        setLost(false);
      });
      source.addEventListener('changed', (e: MessageEvent<string>) => {
        if (e.data !== 'own' || Date.now() - lastOwn > OWN_MS) refresh();
      });
      source.onerror = () => {
        wasLost = true;
        setLost(true);
        if (source.readyState !== EventSource.CLOSED) return;
        // Refused, not lost: a session that was ended elsewhere shows itself by asking anything.
        refresh();
        again = window.setTimeout(open, AGAIN_MS);
      };
    };
    open();
    return () => {
      window.clearTimeout(again);
      source.close();
    };
  }, [queries]);
  return lost;
};
