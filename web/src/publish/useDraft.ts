import { useCallback, useEffect, useRef, useState } from 'react';
import type { Publication } from '../shared/api/client';
import { merged } from '../shared/merged';
import { draftOf, type Draft } from './draft';

/**
 * What is chosen in the studio, in step with what is kept of it: what others do meanwhile comes in beside it, whether it is told of
 * or comes with an answer, and goes back with the next choice as they left it.
 */
export const useDraft = (publication: Publication | null, language: string) => {
  const [draft, setDraft] = useState(() => draftOf(publication, language));
  const kept = useRef(publication);
  const told = useRef(publication);
  // What of the choices, as they were made here, is kept.
  const settled = useRef(draft);
  const going = useRef(0);

  /** Takes in how it is kept now, with `sent` by what was sent from here. */
  const learn = useCallback(
    (now: Publication, sent?: Draft) => {
      const before = kept.current;
      const theirs = draftOf(now, language);
      const base = sent ?? (before ? draftOf(before, language) : theirs);
      kept.current = now;
      told.current = now;
      settled.current = going.current > 1 ? (sent ?? settled.current) : theirs;
      setDraft((mine) => merged(base, mine, theirs));
    },
    [language],
  );
  // While something is on its way its answer tells; a list that was asked for earlier tells nothing.
  const hear = useCallback(() => {
    const now = told.current;
    if (now && going.current === 0 && now.version >= (kept.current?.version ?? 0)) learn(now);
  }, [learn]);
  useEffect(() => {
    told.current = publication;
    hear();
  }, [publication, hear]);

  return {
    draft,
    setDraft,
    kept,
    learn,
    /** What a choice makes of what is kept when its turn has come. */
    onto: (chosen: Draft, now: Publication) => merged(settled.current, chosen, draftOf(now, language)),
    /** Does something with it, counted while it is going on. */
    during: async <T>(work: Promise<T>): Promise<T> => {
      going.current++;
      return work.finally(() => {
        going.current--;
        hear();
      });
    },
  };
};
