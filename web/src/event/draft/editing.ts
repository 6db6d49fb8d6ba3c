import type { ApiProblem, EditScope, EventData, MisfitChoice, Occurrence } from '../../shared/api/client';
import { dayOf } from '../../shared/dates';
import type { EventDraft } from './draft';
import type { Kept } from './keptDraft';
import { merge, takeTheirs, type Conflict } from './merge';
import { carryOver, draftFor, shiftedFor } from './scopes';
import type { Shift } from './shift';

/** What is done with each date that fits nowhere any more. */
export type Choices = Record<string, MisfitChoice>;

/** What stands in the fields now, or how it comes from what stood there. */
export type Typed = EventDraft | ((draft: EventDraft) => EventDraft);

export const typedOver = (draft: EventDraft, typed: Typed): EventDraft =>
  typeof typed === 'function' ? typed(draft) : typed;

/** An event being edited in its sheet. */
export interface Editing {
  occurrence: Occurrence;
  /** What the fields were filled from; a newer version does not touch what is being typed. */
  base: EventData;
  scope: EditScope;
  draft: EventDraft;
  choices: Choices;
  /** Whether every choice has been made. */
  isDecided: boolean;
  /** What somebody else changed as well, until one of both is chosen. */
  conflicts: Conflict[];
  remark: string;
  problem: ApiProblem | null;
  isBusy: boolean;
}

export type EditingStep =
  | { step: 'typed'; draft: Typed }
  | { step: 'scoped'; scope: EditScope }
  | { step: 'chose'; choices: Choices }
  | { step: 'decided'; isDecided: boolean }
  | { step: 'remarked'; remark: string }
  /** Somebody else has saved. */
  | { step: 'changedByOthers'; theirs: EventData }
  | { step: 'settled'; conflict: Conflict; isTheirs: boolean }
  | { step: 'putBack' }
  | { step: 'sent' }
  | { step: 'refused'; problem: ApiProblem }
  | { step: 'answered' }
  | { step: 'saved'; event: EventData };

/** What the fields hold before anything is typed. */
export const blankOf = ({ base, occurrence, scope }: Editing): EventDraft => draftFor(base, occurrence, scope);

/** Where editing begins: from the event, from what was typed before, and from how far it was moved on the board. */
export const beginEditing = (
  event: EventData,
  occurrence: Occurrence,
  shift: Shift | null,
  kept: Kept | null,
): Editing => {
  // One date alone cannot go to another calendar.
  const scope: EditScope = shift?.calendarId ? 'everyDate' : (kept?.scope ?? (event.rule ? 'thisDate' : 'everyDate'));
  const blank = draftFor(event, occurrence, scope);
  const restored =
    kept && kept.scope === scope ? merge(kept.blank, kept.draft, blank) : { draft: blank, conflicts: [] };
  return {
    occurrence,
    base: event,
    scope,
    draft: shift ? shiftedFor(restored.draft, shift, occurrence, scope) : restored.draft,
    choices: {},
    isDecided: true,
    conflicts: restored.conflicts,
    remark: '',
    problem: null,
    isBusy: false,
  };
};

/** What was changed by others comes in, what both changed is asked. */
const takeIn = (state: Editing, theirs: EventData): Editing => {
  const { draft, conflicts } = merge(blankOf(state), state.draft, draftFor(theirs, state.occurrence, state.scope));
  return { ...state, base: theirs, draft, conflicts, problem: null };
};

export const edited = (state: Editing, action: EditingStep): Editing => {
  switch (action.step) {
    case 'typed':
      return { ...state, draft: typedOver(state.draft, action.draft) };
    case 'scoped': {
      const next = draftFor(state.base, state.occurrence, action.scope);
      const day = dayOf(state.occurrence.date);
      return {
        ...state,
        scope: action.scope,
        choices: {},
        draft: carryOver(state.draft, blankOf(state), next, state.scope, action.scope, day),
      };
    }
    case 'chose':
      return { ...state, choices: action.choices };
    case 'decided':
      return { ...state, isDecided: action.isDecided };
    case 'remarked':
      return { ...state, remark: action.remark };
    case 'changedByOthers':
      // One's own save is on its way: its answer says what there is.
      return state.isBusy || action.theirs.version <= state.base.version ? state : takeIn(state, action.theirs);
    case 'settled':
      return {
        ...state,
        draft: action.isTheirs ? takeTheirs(state.draft, action.conflict) : state.draft,
        conflicts: state.conflicts.filter((c) => c !== action.conflict),
      };
    case 'putBack':
      return { ...state, draft: blankOf(state), problem: null };
    case 'sent':
      return { ...state, isBusy: true, problem: null };
    case 'refused': {
      const { problem } = action;
      const isStale = problem.code === 'stale_version' && problem.current;
      return { ...(isStale ? takeIn(state, problem.current as EventData) : state), problem, isBusy: false };
    }
    case 'answered':
      return { ...state, isBusy: false };
    case 'saved':
      return {
        ...state,
        base: action.event,
        choices: {},
        draft: draftFor(action.event, state.occurrence, state.scope),
      };
  }
};
