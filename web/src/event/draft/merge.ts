import type { DraftFacts, EventDraft } from './draft';

export type Field = keyof EventDraft | `facts.${keyof DraftFacts & string}`;

/** Something that both have changed, differently. */
export interface Conflict {
  field: Field;
  mine: unknown;
  theirs: unknown;
}

const same = (a: unknown, b: unknown): boolean => JSON.stringify(a) === JSON.stringify(b);

/**
 * What was typed over an event that somebody else changed meanwhile: what only one of both changed is taken from them,
 * what both changed alike is no matter, the rest has to be chosen. Until then one's own stands in the fields.
 */
export const merge = (
  base: EventDraft,
  mine: EventDraft,
  theirs: EventDraft,
): { draft: EventDraft; conflicts: Conflict[] } => {
  const conflicts: Conflict[] = [];
  const pick = <T>(field: Field, was: T, own: T, other: T): T => {
    if (same(own, was) || same(own, other)) return other;
    if (!same(other, was)) conflicts.push({ field, mine: own, theirs: other });
    return own;
  };
  const facts = Object.fromEntries(
    (Object.keys(base.facts) as (keyof DraftFacts & string)[]).map((key) => [
      key,
      pick(`facts.${key}`, base.facts[key], mine.facts[key], theirs.facts[key]),
    ]),
  ) as DraftFacts;
  const fields = Object.fromEntries(
    (Object.keys(base) as (keyof EventDraft)[])
      .filter((key) => key !== 'facts')
      .map((key) => [key, pick(key, base[key], mine[key], theirs[key])]),
  ) as Omit<EventDraft, 'facts'>;
  return { draft: { ...fields, facts }, conflicts };
};

/** The draft with the other's value for something that both changed. */
export const takeTheirs = (draft: EventDraft, { field, theirs }: Conflict): EventDraft =>
  field.startsWith('facts.')
    ? { ...draft, facts: { ...draft.facts, [field.slice('facts.'.length)]: theirs } }
    : { ...draft, [field]: theirs };
