import { useCallback, useEffect, useReducer } from 'react';
import type { ApiProblem } from './api/client';
import { keepDraft, readDraft } from './data/draftStorage';
import { same } from './merged';

interface Form<T> {
  /** What is saved, as the form began from it. */
  base: T;
  draft: T;
  problem: ApiProblem | null;
}

type Step<T> =
  | { step: 'typed'; draft: T }
  | { step: 'settled'; saved: T }
  | { step: 'changedByOthers'; saved: T }
  | { step: 'refused'; problem: ApiProblem | null };

const stepped = <T>(state: Form<T>, action: Step<T>): Form<T> => {
  switch (action.step) {
    case 'typed':
      return { ...state, draft: action.draft, problem: null };
    case 'settled':
      return { base: action.saved, draft: action.saved, problem: null };
    case 'changedByOthers':
      // Undone, or saved elsewhere: it comes in while nothing is being typed here; else saving asks which of both.
      return same(state.draft, state.base) && !same(state.base, action.saved)
        ? { base: action.saved, draft: action.saved, problem: null }
        : state;
    case 'refused':
      return { ...state, problem: action.problem };
  }
};

/** A form over one saved thing: what is typed outlives a reload until it is saved. */
export const useKeptForm = <T>(name: string, saved: T) => {
  const [state, dispatch] = useReducer(stepped<T>, null, (): Form<T> => ({
    base: saved,
    draft: readDraft<T>(name) ?? saved,
    problem: null,
  }));
  const text = JSON.stringify(saved);
  useEffect(() => dispatch({ step: 'changedByOthers', saved: JSON.parse(text) as T }), [text]);
  const { draft, base } = state;
  const isDirty = !same(draft, base);
  useEffect(() => keepDraft(name, isDirty ? draft : null), [name, draft, isDirty]);
  return {
    ...state,
    isDirty,
    type: useCallback((next: T) => dispatch({ step: 'typed', draft: next }), []),
    settle: useCallback((next: T) => dispatch({ step: 'settled', saved: next }), []),
    refuse: useCallback((problem: ApiProblem | null) => dispatch({ step: 'refused', problem }), []),
  };
};
