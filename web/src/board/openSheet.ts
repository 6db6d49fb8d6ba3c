import { useEffect } from 'react';
import { keepDraft, readDraft } from '../shared/data/draftStorage';
import type { Chosen } from './selection';

const OPEN = 'open sheet';

/** The sheet that was open when the page was left. */
export const openSheet = (): Chosen | null => readDraft<Chosen>(OPEN);

/** Remembers which sheet is open. */
export const useKeepOpen = (chosen: Chosen | null) => {
  const text = JSON.stringify(chosen);
  useEffect(() => keepDraft(OPEN, JSON.parse(text)), [text]);
};
