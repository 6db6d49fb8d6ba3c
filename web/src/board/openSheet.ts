import { useCallback, useEffect, useState } from 'react';
import { keepDraft, readDraft } from '../shared/data/draftStorage';
import { occurrenceKey } from '../shared/occurrences';
import type { Chosen } from './selection';

const OPEN = 'open sheet';

/** Whether it stands in the same sheet, which goes on then with what is typed there: each date of a series has its own. */
const isOneSheet = (was: Chosen | null, now: Chosen | null): boolean =>
  (was?.kind === 'event' && now?.kind === 'event' && occurrenceKey(was.occurrence) === occurrenceKey(now.occurrence)) ||
  (was?.kind === 'calendar' && now?.kind === 'calendar' && was.id === now.id);

/** What is chosen, beginning with what was when the page was left; and of the sheets that were open the number of its. */
export const useChosen = () => {
  const [{ chosen, nth }, set] = useState<{ chosen: Chosen | null; nth: number }>(() => ({
    chosen: readDraft<Chosen>(OPEN),
    nth: 0,
  }));
  const text = JSON.stringify(chosen);
  useEffect(() => keepDraft(OPEN, JSON.parse(text)), [text]);
  const choose = useCallback(
    (now: Chosen | null) => set((was) => ({ chosen: now, nth: isOneSheet(was.chosen, now) ? was.nth : was.nth + 1 })),
    [],
  );
  // What was done in a sheet closes that one, or leads on from it, and from none that was opened meanwhile.
  const leadOn = useCallback(
    (now: Chosen | null) => set((was) => (was.nth === nth ? { chosen: now, nth: nth + 1 } : was)),
    [nth],
  );
  const close = useCallback(() => leadOn(null), [leadOn]);
  return { chosen, nth, choose, leadOn, close };
};
