import { useRef, useState } from 'react';
import { asProblem, type ApiProblem } from './api/client';

/**
 * Changes that are made one after the other, in the order they were asked for, however quick the hand. What is refused stays
 * said until something else is asked for, also when an answer to what was asked before comes after it.
 */
export const useInTurn = () => {
  const [problem, setProblem] = useState<ApiProblem | null>(null);
  const last = useRef<Promise<unknown>>(Promise.resolve());
  /** Makes a change when its turn has come; whether it went well. */
  const run = (work: () => Promise<unknown>): Promise<boolean> => {
    setProblem(null);
    const turn = last.current.then(async () => {
      try {
        await work();
        return true;
      } catch (error) {
        setProblem(asProblem(error));
        return false;
      }
    });
    last.current = turn;
    return turn;
  };
  return { run, problem };
};
