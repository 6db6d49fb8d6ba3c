import { useCallback, useEffect, useLayoutEffect, useReducer, useRef } from 'react';
import type { ApiProblem } from './api/client';
import { keepDraft, readDraft } from './data/draftStorage';
import { overSaved, same } from './merged';

interface Form<T> {
  /** What is saved, as the form began from it. */
  base: T;
  draft: T;
  problem: ApiProblem | null;
}

type Step<T> =
  | { step: 'typed'; draft: T }
  | { step: 'settled'; saved: T; sent: T | null }
  | { step: 'changedByOthers'; saved: T }
  | { step: 'refused'; problem: ApiProblem | null };

const stepped = <T>(state: Form<T>, action: Step<T>): Form<T> => {
  switch (action.step) {
    case 'typed':
      return { ...state, draft: action.draft, problem: null };
    case 'settled':
      return {
        base: action.saved,
        draft: action.sent === null ? action.saved : overSaved(action.sent, state.draft, action.saved),
        problem: null,
      };
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
  const typed = useRef(draft);
  useLayoutEffect(() => {
    typed.current = draft;
  });
  const isDirty = !same(draft, base);
  useEffect(() => keepDraft(name, isDirty ? draft : null), [name, draft, isDirty]);
  return {
    ...state,
    isDirty,
    type: useCallback((next: T) => dispatch({ step: 'typed', draft: next }), []),
    /** What stands there is saved, but for what was typed on since it was sent; or, with nothing sent, it is given up. */
    settle: useCallback((next: T, sent: T | null = null) => dispatch({ step: 'settled', saved: next, sent }), []),
    /** The same where what is saved has a form of its own from now on: that begins with what was typed on. */
    handOn: useCallback((other: string, next: T, sent: T) => {
      const left = overSaved(sent, typed.current, next);
      if (!same(left, next)) keepDraft(other, left);
      dispatch({ step: 'settled', saved: next, sent: null });
    }, []),
    refuse: useCallback((problem: ApiProblem | null) => dispatch({ step: 'refused', problem }), []),
  };
};
