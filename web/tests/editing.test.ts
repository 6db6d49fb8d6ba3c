import { describe, expect, it } from 'vitest';
import { ApiProblem, type EventData, type Occurrence } from '../src/shared/api/client';
import { beginEditing, blankOf, edited, type Editing, type EditingStep } from '../src/event/draft/editing';
import { NO_SHIFT } from '../src/event/draft/shift';
import { factsOf } from '../src/event/draft/draft';

const event = {
  id: 'e',
  calendarId: 'c',
  title: 'Mast day',
  place: 'Slip 1',
  description: '',
  timing: { kind: 'zoned', start: '2026-11-24T18:00:00', end: '2026-11-24T19:30:00', zone: null },
  rule: null,
  follows: null,
  facts: factsOf(null),
  changes: [],
  extras: [],
  skips: [],
  version: 3,
} as unknown as EventData;
const occurrence = { eventId: 'e', date: '2026-11-24T18:00:00' } as Occurrence;

const begun = (shift = null as Parameters<typeof beginEditing>[2]) => beginEditing(event, occurrence, shift, null);
const after = (state: Editing, ...steps: EditingStep[]) => steps.reduce(edited, state);
const titled = (title: string): EditingStep => ({ step: 'typed', draft: (draft) => ({ ...draft, title }) });

describe('editing an event', () => {
  it('begins with what is saved, and is where it was once that is put back', () => {
    const state = begun();
    expect(state.draft).toEqual(blankOf(state));
    expect(after(state, titled('Mast week'), { step: 'putBack' }).draft).toEqual(state.draft);
  });

  it('takes in what others saved and asks only for what both changed', () => {
    const theirs = { ...event, title: 'Mast night', place: 'Slip 2', version: 4 };
    const state = after(begun(), titled('Mast week'), { step: 'changedByOthers', theirs });
    expect(state.draft).toMatchObject({ title: 'Mast week', place: 'Slip 2' });
    expect(state.conflicts.map((c) => c.field)).toEqual(['title']);
    const [conflict] = state.conflicts;
    if (!conflict) throw new Error('Nothing is asked.');
    expect(after(state, { step: 'settled', conflict, isTheirs: true }).draft.title).toBe('Mast night');
    expect(after(state, { step: 'settled', conflict, isTheirs: false })).toMatchObject({
      draft: { title: 'Mast week' },
      conflicts: [],
    });
  });

  it('does not take its own save for somebody else’s, nor an older version for a newer one', () => {
    const theirs = { ...event, title: 'Mast night', version: 4 };
    const sending = after(begun(), titled('Mast week'), { step: 'sent' });
    expect(after(sending, { step: 'changedByOthers', theirs })).toBe(sending);
    const state = begun();
    expect(after(state, { step: 'changedByOthers', theirs: { ...theirs, version: 3 } })).toBe(state);
  });

  it('keeps what is typed when the server refuses it, and takes in what is there when it was too late', () => {
    const typed = after(begun(), titled(''), { step: 'sent' });
    const wrong = after(typed, { step: 'refused', problem: new ApiProblem(422, 'title_missing', '', 'title') });
    expect(wrong).toMatchObject({ draft: { title: '' }, isBusy: false, problem: { code: 'title_missing' } });
    const current = { ...event, place: 'Slip 2', version: 5 };
    const late = after(typed, {
      step: 'refused',
      problem: new ApiProblem(409, 'stale_version', '', undefined, current),
    });
    expect(late).toMatchObject({ base: { version: 5 }, draft: { title: '', place: 'Slip 2' } });
  });

  it('moved on the board keeps what was typed into its sheet before', () => {
    const blank = blankOf(begun());
    const kept = { scope: 'everyDate', blank, draft: { ...blank, title: 'Mast week' } } as const;
    const state = beginEditing(event, occurrence, { ...NO_SHIFT, days: 1 }, kept);
    expect(state.draft).toMatchObject({ title: 'Mast week', firstDay: '2026-11-25' });
  });
});
