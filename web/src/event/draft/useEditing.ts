import { useCallback, useEffect, useLayoutEffect, useReducer, useRef, useState, type Dispatch } from 'react';
import { api, asProblem, type EditScope, type EventData, type Fields } from '../../shared/api/client';
import { inputOfDraft, type EventDraft } from './draft';
import { beginEditing, edited, type Editing, type EditingStep } from './editing';

interface Options {
  event: EventData;
  /** The date the sheet is open on. */
  date: string;
  /** The proposal that is gone on with; null for the event as it is. */
  proposalId: string | null;
  begun: Fields;
}

/** An event being edited: its state, the way to other dates of it, and what others save taken in under what is typed. */
export const useEditing = ({ event, date, proposalId, begun }: Options) => {
  const [state, dispatch] = useReducer(edited, begun, beginEditing);
  const now = useRef(state);
  useLayoutEffect(() => {
    now.current = state;
  });
  const turn = useRef(0);
  const [isFilling, setFilling] = useState(false);
  const filling = useRef<Promise<void>>(Promise.resolve());
  const fill = useCallback(
    /** Over what was typed: what the fields held, or after saving what was sent. */
    (scope: EditScope, over: EventDraft | null = null) => {
      const mine = ++turn.current;
      const isWanted = () => mine === turn.current;
      setFilling(true);
      filling.current = bring(scope, over, date, proposalId, event.id, now, isWanted, dispatch).then(() => {
        if (isWanted()) setFilling(false);
      });
      return filling.current;
    },
    [event.id, date, proposalId],
  );
  // Somebody else has saved. While one's own save is on its way its answer says what there is.
  const isNewer = !state.isBusy && event.version > state.base.version;
  useEffect(() => {
    if (isNewer) void fill(now.current.scope);
  }, [isNewer, event.version, fill]);
  /** Waits until the fields hold what they are asked for. */
  const settled = useCallback(() => filling.current, []);
  return { state, dispatch, fill, isFilling, settled };
};

const bring = async (
  scope: EditScope,
  over: EventDraft | null,
  date: string,
  proposalId: string | null,
  id: string,
  now: { current: Editing },
  isWanted: () => boolean,
  dispatch: Dispatch<EditingStep>,
) => {
  try {
    // What is typed while the answer is on its way goes along with the next one.
    for (;;) {
      const asked = now.current;
      const fields = await api.fields(id, {
        date,
        scope,
        was: asked.scope,
        over: inputOfDraft(over ?? asked.blank, null),
        typed: inputOfDraft(asked.draft, null),
        proposalId,
      });
      if (!isWanted()) return;
      if (now.current.draft !== asked.draft) continue;
      dispatch({ step: 'filled', fields });
      return;
    }
  } catch (error) {
    if (isWanted()) dispatch({ step: 'refused', problem: asProblem(error) });
  }
};
