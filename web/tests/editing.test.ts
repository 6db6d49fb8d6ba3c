import { describe, expect, it } from 'vitest';
import { ApiProblem, type EventInput, type Fields } from '../src/shared/api/client';
import { inputOf } from '../src/shared/data/actions';
import { beginEditing, edited, takePart, type Editing, type EditingStep } from '../src/event/draft/editing';
import { eventOf } from './samples';

const event = eventOf();
const blank: EventInput = inputOf(event);
const fields = (change: Partial<Fields> = {}): Fields => ({
  event,
  scope: 'everyDate',
  blank,
  typed: blank,
  conflicts: [],
  ...change,
});
const begin = (of = fields()) => beginEditing({ fields: of, shift: null });
const after = (state: Editing, ...steps: EditingStep[]) => steps.reduce(edited, state);
const titled = (title: string): EditingStep => ({ step: 'typed', draft: (draft) => ({ ...draft, title }) });

describe('editing an event', () => {
  it('begins with what the fields are filled with, and is where it was once that is put back', () => {
    const state = begin(fields({ typed: { ...blank, title: 'Splices' } }));
    expect(state.draft.title).toBe('Splices');
    expect(after(state, titled('Mast week'), { step: 'putBack' }).draft).toEqual(state.blank);
  });

  it('takes in what others saved and asks for what both changed, each part as a whole', () => {
    const theirs = {
      ...blank,
      title: 'Mast night',
      place: 'Slip 2',
      timing: { ...blank.timing, start: '2026-09-02T20:00:00', end: '2026-09-02T21:00:00' },
    };
    const state = after(begin(), titled('Mast week'), {
      step: 'filled',
      fields: fields({
        event: { ...event, version: 4 },
        blank: theirs,
        typed: { ...blank, title: 'Mast week', place: 'Slip 2' },
        conflicts: ['title', 'when'],
      }),
      shift: null,
    });
    expect(state).toMatchObject({ base: { version: 4 }, draft: { title: 'Mast week', place: 'Slip 2' } });
    const mine = after(state, { step: 'settled', part: 'title', isTheirs: false });
    expect(mine).toMatchObject({ draft: { title: 'Mast week' }, conflicts: ['when'] });
    expect(after(mine, { step: 'settled', part: 'when', isTheirs: true })).toMatchObject({
      draft: { title: 'Mast week', firstDay: '2026-09-02', from: '20:00', to: '21:00' },
      conflicts: [],
    });
  });

  it('takes one part of what it has beside and leaves the others', () => {
    const { draft } = begin();
    const other = { ...draft, facts: { ...draft.facts, tags: ['rope'], subtitle: 'Long ones' } };
    expect(takePart(draft, other, 'facts.tags').facts).toEqual({ ...draft.facts, tags: ['rope'] });
  });

  it('keeps what is typed when the server refuses it', () => {
    const typed = after(begin(), titled(''), { step: 'sent' });
    const wrong = after(typed, { step: 'refused', problem: new ApiProblem(422, 'title_missing', '', 'title') });
    expect(wrong).toMatchObject({ draft: { title: '' }, isBusy: false, problem: { code: 'title_missing' } });
  });

  it('forgets what was decided about dates when others are meant, and keeps it otherwise', () => {
    const chose = after(begin(), { step: 'chose', choices: { '2026-09-08': 'drop' } });
    expect(after(chose, { step: 'filled', fields: fields(), shift: null }).choices).toEqual({ '2026-09-08': 'drop' });
    expect(after(chose, { step: 'filled', fields: fields({ scope: 'fromThisDate' }), shift: null }).choices).toEqual(
      {},
    );
  });

  it('is clean once it is saved', () => {
    const saved = after(begin(), titled('Mast week'), {
      step: 'saved',
      event: { ...event, version: 4 },
    });
    expect(saved.blank).toEqual(saved.draft);
    expect(saved.base.version).toBe(4);
  });
});
