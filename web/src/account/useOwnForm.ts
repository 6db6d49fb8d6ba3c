import { useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { asProblem } from '../shared/api/client';
import { useUndo } from '../shared/data/undo';
import { problemText, useTexts } from '../shared/i18n';

/** Sends a form, says what is wrong with it, and tells when it is done. */
export const useOwnForm = () => {
  const { t } = useTexts();
  const { tell } = useUndo();
  const queries = useQueryClient();
  const [problem, setProblem] = useState<ReturnType<typeof asProblem> | null>(null);
  const send = async (work: () => Promise<unknown>, done: string | null): Promise<boolean> => {
    setProblem(null);
    try {
      await work();
      await Promise.all(['account', 'session'].map((key) => queries.invalidateQueries({ queryKey: [key] })));
      if (done) tell(done);
      return true;
    } catch (error) {
      setProblem(asProblem(error));
      return false;
    }
  };
  const wrong = (field: string) => (problem?.field === field ? problemText(t, problem) : null);
  const other = problem && !problem.field ? problemText(t, problem) : null;
  return { send, wrong, other };
};
