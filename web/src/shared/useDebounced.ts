import { useEffect, useState } from 'react';

/** A value that follows another one once it has rested. */
export const useDebounced = <T>(value: T, ms: number): T => {
  const [rested, setRested] = useState(value);
  useEffect(() => {
    const timer = setTimeout(() => setRested(value), ms);
    return () => clearTimeout(timer);
  }, [value, ms]);
  return rested;
};
