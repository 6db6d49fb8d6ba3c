import { beforeEach, expect, it, vi } from 'vitest';
import { draftsOf, dropDrafts, keepDraft, readDraft } from '../src/shared/data/draftStorage';
import { begunEvents, begunFrom, forgetBegun } from '../src/event/draft/keptDraft';
import { newDraft } from '../src/event/draft/draft';

beforeEach(() => {
  const kept: Record<string, string> = {};
  // As a browser's: its keys are its own properties.
  Object.defineProperties(kept, {
    getItem: { value: (key: string) => kept[key] ?? null },
    setItem: { value: (key: string, text: string) => void (kept[key] = text) },
    removeItem: { value: (key: string) => Reflect.deleteProperty(kept, key) },
  });
  vi.stubGlobal('sessionStorage', kept);
  draftsOf('marit');
});

it('drafts are one person’s, and nobody who comes after finds them', () => {
  keepDraft('line', 'Regatta fri');
  draftsOf('marit');
  expect(readDraft('line')).toBe('Regatta fri');
  draftsOf('ines');
  expect(readDraft('line')).toBeNull();
  draftsOf('marit');
  expect(readDraft('line')).toBeNull();
});

it('signing out ends all drafts and nothing else', () => {
  sessionStorage.setItem('other', '1');
  keepDraft('line', 'Regatta fri');
  dropDrafts();
  expect(readDraft('line')).toBeNull();
  expect(sessionStorage.getItem('other')).toBe('1');
});

it('an event begun is gone on with only where the same one is begun', () => {
  const [monday, tuesday] = [newDraft('c', '2026-11-23'), newDraft('c', '2026-11-24')];
  keepDraft('begun', [
    { blank: monday, draft: { ...monday, title: 'Regatta' } },
    { blank: tuesday, draft: { ...tuesday, title: 'Knots' } },
  ]);
  expect(begunFrom(monday)?.draft.title).toBe('Regatta');
  expect(begunFrom(newDraft('d', '2026-11-23'))).toBeNull();
  forgetBegun(monday);
  expect(begunEvents().map((b) => b.draft.title)).toEqual(['Knots']);
  forgetBegun(tuesday);
  expect(begunEvents()).toEqual([]);
});
