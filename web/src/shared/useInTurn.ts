import { useRef, useState } from 'react';
import { asProblem, type ApiProblem } from './api/client';

/**
 * Changes that are made one after the other, in the order they were asked for, however quick the hand. What is refused stays
 * said until something else is asked for, also when an answer to what was asked before comes after it.
 */
export const useInTurn = () => {
  const [problem, setProblem] = useState<ApiProblem | null>(null);
  const last = useRef<Promise<unknown>>(Promise.resolve());
  const going = useRef(new Map<string, Promise<boolean>>());
  /**
   * Makes a change when its turn has come; whether it went well. What has a name is not done once more while it is being
   * done: whoever presses twice means it once.
   */
  const run = (work: () => Promise<unknown>, name?: string): Promise<boolean> => {
    const same = name === undefined ? undefined : going.current.get(name);
    if (same) return same;
    setProblem(null);
    const turn = last.current.then(async () => {
      try {
        await work();
        return true;
      } catch (error) {
        setProblem(asProblem(error));
        return false;
      } finally {
        if (name !== undefined) going.current.delete(name);
      }
    });
    if (name !== undefined) going.current.set(name, turn);
    last.current = turn;
    return turn;
  };
  return { run, problem };
};
