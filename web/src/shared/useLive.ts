import { useQueryClient } from '@tanstack/react-query';
import { useEffect, useState } from 'react';

/** What this screen did itself it has shown already. */
let lastOwn = 0;
export const didItself = () => {
  lastOwn = Date.now();
};

const OWN_MS = 3_000;

/**
 * Follows what others change while the screen is open; tells whether the connection is lost. The browser makes it again
 * by itself, and then everything is looked at anew.
 */
export const useLive = (): boolean => {
  const queries = useQueryClient();
  const [lost, setLost] = useState(false);
  useEffect(() => {
    const source = new EventSource('/api/changes');
    let wasLost = false;
    const refresh = () => void queries.invalidateQueries();
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
    };
    return () => source.close();
  }, [queries]);
  return lost;
};
