import { useState } from 'react';

/**
 * What was chosen of some things is seen from that moment on, however long the change takes; once it is done, or refused,
 * what is kept is seen again.
 */
export const useChosen = <T>() => {
  const [chosen, setChosen] = useState<ReadonlyMap<string, { value: T }>>(new Map());
  /**
   * @param of what it is chosen of
   * @param change the change; it is over when what is kept is known
   */
  const choose = (of: string, value: T, change: Promise<unknown>) => {
    const mine = { value };
    setChosen((now) => new Map(now).set(of, mine));
    const end = () =>
      setChosen((now) => (now.get(of) === mine ? new Map([...now].filter(([key]) => key !== of)) : now));
    // Of a refusal nobody else waits for, it is heard where such ones are told.
    void change.finally(end);
  };
  /** What is to be seen of something that is kept so. */
  const seen = (of: string, kept: T): T => chosen.get(of)?.value ?? kept;
  return { choose, seen, isGoing: chosen.size > 0 };
};
