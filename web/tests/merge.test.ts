import { describe, expect, it } from 'vitest';
import { newDraft } from '../src/event/draft/draft';
import { merge, takeTheirs } from '../src/event/draft/merge';

describe('an event that two people change', () => {
  const base = { ...newDraft('c', '2026-11-24', 'Knots'), place: 'Loft 2' };

  it('gets what each of them changed', () => {
    const mine = { ...base, title: 'Splices', facts: { ...base.facts, tags: ['rope'] } };
    const theirs = { ...base, place: 'Quay', facts: { ...base.facts, subtitle: 'Long ones' } };
    const { draft, conflicts } = merge(base, mine, theirs);
    expect(conflicts).toEqual([]);
    expect(draft).toEqual({
      ...base,
      title: 'Splices',
      place: 'Quay',
      facts: { ...base.facts, tags: ['rope'], subtitle: 'Long ones' },
    });
  });

  it('has to be decided where both changed the same field, and one’s own stands until then', () => {
    const mine = { ...base, place: 'Quay', facts: { ...base.facts, tags: ['rope'] } };
    const theirs = { ...base, place: 'Slip 1', facts: { ...base.facts, tags: ['tar'] } };
    const { draft, conflicts } = merge(base, mine, theirs);
    expect(draft).toEqual(mine);
    expect(conflicts).toEqual([
      { field: 'facts.tags', mine: ['rope'], theirs: ['tar'] },
      { field: 'place', mine: 'Quay', theirs: 'Slip 1' },
    ]);
    expect(conflicts.reduce(takeTheirs, draft)).toEqual(theirs);
  });

  it('is no matter where both did the same', () => {
    const both = { ...base, place: 'Quay' };
    expect(merge(base, both, both)).toEqual({ draft: both, conflicts: [] });
  });
});
