import { useCallback, useEffect, useLayoutEffect, useReducer, useRef } from 'react';
import { flushSync } from 'react-dom';
import { api, asProblem, type EditScope, type EventData, type Fields, type Shift } from '../../shared/api/client';
import { inputOfDraft, type EventDraft } from './draft';
import { beginEditing, edited } from './editing';

interface Options {
  event: EventData;
  /** The date the sheet is open on. */
  date: string;
  /** How far it was moved on the board, still to be saved. */
  shift: Shift | null;
  /** The proposal that is gone on with; null for the event as it is. */
  proposalId: string | null;
  /** What the fields began with, and the part of the move that is in it. */
  begun: { fields: Fields; shift: Shift | null };
}

const same = (a: Shift | null, b: Shift | null): boolean => JSON.stringify(a) === JSON.stringify(b);

/**
 * An event being edited: its state, the way to other dates of it, and what is moved on the board or saved by others
 * taken in under what is typed and chosen.
 */
export const useEditing = ({ event, date, shift, proposalId, begun }: Options) => {
  const [state, dispatch] = useReducer(edited, begun, beginEditing);
  const now = useRef({ state, date, shift, proposalId });
  useLayoutEffect(() => {
    now.current = { state, date, shift, proposalId };
  });
  // Known at once, before what is dispatched is drawn.
  const meant = useRef(state.scope);
  const turn = useRef(0);
  const done = useRef(0);
  const filling = useRef<Promise<boolean>>(Promise.resolve(true));
  const bring = useCallback(
    async (mine: number, over: EventDraft | null): Promise<boolean> => {
      const isWanted = () => mine === turn.current;
      try {
        // What is typed while the answer is on its way goes along with the next one.
        for (;;) {
          const { state: asked, date: on, shift: moved, proposalId: proposal } = now.current;
          const fields = await api.fields(event.id, {
            date: on,
            scope: meant.current,
            was: asked.scope,
            over: inputOfDraft(over ?? asked.blank, null),
            typed: inputOfDraft(asked.draft, null),
            // What was sent is saved moved.
            shift: over ? null : moved,
            moved: over ? null : asked.shift,
            proposalId: proposal,
          });
          if (!isWanted()) return await filling.current;
          if (now.current.state.draft !== asked.draft) continue;
          meant.current = fields.scope;
          // Who waits for it goes on with what stands there then.
          flushSync(() => dispatch({ step: 'filled', fields, shift: over ? null : moved }));
          return true;
        }
      } catch (error) {
        if (!isWanted()) return await filling.current;
        meant.current = now.current.state.scope;
        dispatch({ step: 'refused', problem: asProblem(error) });
        return false;
      }
    },
    [event.id],
  );
  const fill = useCallback(
    /** For the dates that are meant, over what was typed: what the fields held, or after saving what was sent. */
    (scope: EditScope = meant.current, over: EventDraft | null = null): Promise<boolean> => {
      const mine = ++turn.current;
      meant.current = scope;
      dispatch({ step: 'meant', scope });
      filling.current = bring(mine, over).finally(() => {
        if (mine === turn.current) done.current = mine;
      });
      return filling.current;
    },
    [bring],
  );
  // Somebody else has saved. While one's own save is on its way its answer says what there is.
  const isNewer = !state.isBusy && event.version > state.base.version;
  useEffect(() => {
    if (isNewer) void fill();
  }, [isNewer, event.version, fill]);
  const moved = JSON.stringify(shift);
  useEffect(() => {
    const { state: asked, shift: wanted } = now.current;
    if (same(wanted, asked.shift)) return;
    if (wanted) void fill();
    else dispatch({ step: 'landed' });
  }, [moved, fill]);
  /** Whether the fields hold what they are asked for. */
  const isSettled = () => done.current === turn.current && same(now.current.shift, now.current.state.shift);
  /** Waits until they do, and says whether they do then. */
  const settled = () => (done.current === turn.current ? fill() : filling.current);
  return { state, dispatch, fill, isSettled, settled };
};
