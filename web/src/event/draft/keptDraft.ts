import { useEffect } from 'react';
import type { api, EditScope, Shift } from '../../shared/api/client';
import { keepDraft, readDraft } from '../../shared/data/draftStorage';
import { inputOfDraft, type EventDraft } from './draft';

/** What was typed into the sheet of an event that is there, and not saved. */
export interface Kept {
  scope: EditScope;
  /** What the fields held before. */
  blank: EventDraft;
  draft: EventDraft;
  /** How far it had been moved on the board: that is in the draft already. */
  shift: Shift | null;
}

const nameOf = (slot: string) => `sheet ${slot}`;

/** What is asked to fill a date's fields: with what was typed before, and moved since. */
export const fieldsAsked = (
  slot: string,
  date: string,
  shift: Shift | null,
  proposalId: string | null,
): Parameters<typeof api.fields>[1] => {
  const kept = readDraft<Kept>(nameOf(slot));
  return {
    date,
    proposalId,
    shift,
    moved: kept?.shift ?? null,
    ...(kept && {
      scope: kept.scope,
      was: kept.scope,
      over: inputOfDraft(kept.blank, null),
      typed: inputOfDraft(kept.draft, null),
    }),
  };
};

/** Keeps what is typed for an event that has no sheet yet, which begins with it. */
export const keepDraftFor = (slot: string, kept: Kept) => keepDraft(nameOf(slot), kept);

export const forgetDraft = (slot: string) => keepDraft(nameOf(slot), null);

/** Keeps what is typed as long as it differs from what is saved. */
export const useKeepDraft = (slot: string, isDirty: boolean, kept: Kept) => {
  const text = JSON.stringify(kept);
  useEffect(() => keepDraft(nameOf(slot), isDirty ? JSON.parse(text) : null), [slot, isDirty, text]);
};

/** An event begun and not added: what it began from, and what became of it. */
export interface Begun {
  blank: EventDraft;
  draft: EventDraft;
}

const BEGUN = 'begun';
const MOST = 5;

const same = (a: EventDraft, b: EventDraft): boolean => JSON.stringify(a) === JSON.stringify(b);

/** The events that were begun and not added, the newest first. */
export const begunEvents = (): Begun[] => readDraft<Begun[]>(BEGUN) ?? [];

/** The one that began just so: it is gone on with. What began otherwise is another event, and only offered. */
export const begunFrom = (blank: EventDraft): Begun | null => begunEvents().find((b) => same(b.blank, blank)) ?? null;

/** Forgets the one that began so. */
export const forgetBegun = (blank: EventDraft) => {
  const left = begunEvents().filter((b) => !same(b.blank, blank));
  keepDraft(BEGUN, left.length > 0 ? left : null);
};

/** Keeps an event that is being begun, beside others. */
export const useKeepBegun = ({ blank, draft }: Begun) => {
  const text = JSON.stringify({ blank, draft });
  useEffect(() => {
    const begun = JSON.parse(text) as Begun;
    forgetBegun(begun.blank);
    if (!same(begun.blank, begun.draft)) keepDraft(BEGUN, [begun, ...begunEvents()].slice(0, MOST));
  }, [text]);
};
