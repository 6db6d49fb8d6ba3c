import { useEffect, useState } from 'react';
import { whenFree } from './held';

/** A value that follows another one once it has rested. */
export const useDebounced = <T>(value: T, ms: number): T => {
  const [rested, setRested] = useState(value);
  useEffect(() => {
    let isWanted = true;
    const timer = setTimeout(() => whenFree(() => isWanted && setRested(value)), ms);
    return () => {
      isWanted = false;
      clearTimeout(timer);
    };
  }, [value, ms]);
  return rested;
};
