import type { ApiProblem, EditScope, EventData, Fields, MisfitChoice, Shift } from '../../shared/api/client';
import { draftOf, type DraftFacts, type EventDraft } from './draft';

/** What is done with each date that fits nowhere any more. */
export type Choices = Record<string, MisfitChoice>;

/** What stands in the fields now, or how it comes from what stood there. */
export type Typed = EventDraft | ((draft: EventDraft) => EventDraft);

export const typedOver = (draft: EventDraft, typed: Typed): EventDraft =>
  typeof typed === 'function' ? typed(draft) : typed;

/** A part of an event that is chosen as a whole when two people changed it: when it is, or one of the others. */
export type Part = Exclude<keyof EventDraft, keyof When | 'facts'> | 'when' | `facts.${keyof DraftFacts}`;

const WHEN = ['allDay', 'firstDay', 'from', 'lastDay', 'to', 'zone', 'rule', 'follows'] as const;
type When = Pick<EventDraft, (typeof WHEN)[number]>;

/** An event being edited in its sheet. What the fields hold for which dates, and over what others saved, the server says. */
export interface Editing {
  /** What the fields were filled from; a newer version does not touch what is being typed. */
  base: EventData;
  scope: EditScope;
  /** Which dates are meant by now: the fields follow. */
  meant: EditScope;
  /** What the fields hold before anything is typed. */
  blank: EventDraft;
  draft: EventDraft;
  /** How far it was moved on the board, as far as the draft has it. */
  shift: Shift | null;
  choices: Choices;
  /** Whether every choice has been made. */
  isDecided: boolean;
  /** What somebody else changed as well, until one of both is chosen. */
  conflicts: Part[];
  remark: string;
  problem: ApiProblem | null;
  isBusy: boolean;
}

export type EditingStep =
  | { step: 'meant'; scope: EditScope }
  | { step: 'typed'; draft: Typed }
  /** The fields are filled anew: for other dates, moved on, or after somebody else has saved. */
  | { step: 'filled'; fields: Fields; shift: Shift | null }
  /** How far it was moved on the board is saved, or given up. */
  | { step: 'landed' }
  | { step: 'chose'; choices: Choices }
  | { step: 'decided'; isDecided: boolean }
  | { step: 'remarked'; remark: string }
  | { step: 'settled'; part: Part; isTheirs: boolean }
  | { step: 'putBack' }
  | { step: 'sent' }
  | { step: 'refused'; problem: ApiProblem }
  | { step: 'answered' }
  | { step: 'saved'; event: EventData };

const filled = ({ event, scope, blank, typed, conflicts }: Fields) => ({
  base: event,
  scope,
  meant: scope,
  blank: draftOf(blank),
  draft: draftOf(typed),
  conflicts: conflicts as Part[],
});

/** Where editing begins. */
export const beginEditing = ({ fields, shift }: { fields: Fields; shift: Shift | null }): Editing => ({
  ...filled(fields),
  shift,
  choices: {},
  isDecided: true,
  remark: '',
  problem: null,
  isBusy: false,
});

/** A draft with one part of another one. */
export const takePart = (draft: EventDraft, from: EventDraft, part: Part): EventDraft => {
  if (part === 'when') return { ...draft, ...Object.fromEntries(WHEN.map((name) => [name, from[name]])) };
  if (!part.startsWith('facts.')) return { ...draft, [part]: from[part as keyof EventDraft] };
  const name = part.slice('facts.'.length) as keyof DraftFacts;
  return { ...draft, facts: { ...draft.facts, [name]: from.facts[name] } };
};

export const edited = (state: Editing, action: EditingStep): Editing => {
  switch (action.step) {
    case 'meant':
      return { ...state, meant: action.scope };
    case 'typed':
      return { ...state, draft: typedOver(state.draft, action.draft) };
    case 'filled': {
      const { fields, shift } = action;
      return { ...state, ...filled(fields), shift, choices: fields.scope === state.scope ? state.choices : {} };
    }
    case 'landed':
      return { ...state, shift: null };
    case 'chose':
      return { ...state, choices: action.choices };
    case 'decided':
      return { ...state, isDecided: action.isDecided };
    case 'remarked':
      return { ...state, remark: action.remark };
    case 'settled':
      return {
        ...state,
        draft: action.isTheirs ? takePart(state.draft, state.blank, action.part) : state.draft,
        conflicts: state.conflicts.filter((part) => part !== action.part),
      };
    case 'putBack':
      return { ...state, draft: state.blank, conflicts: [], problem: null };
    case 'sent':
      return { ...state, isBusy: true, problem: null };
    case 'refused':
      return { ...state, meant: state.scope, problem: action.problem, isBusy: false };
    case 'answered':
      return { ...state, isBusy: false };
    case 'saved':
      return { ...state, base: action.event, choices: {}, blank: state.draft };
  }
};
