import { useEffect } from 'react';
import type { EditScope } from '../../shared/api/client';
import type { EventDraft } from './draft';

/** What was typed into a sheet and not saved: it outlives the sheet, and a reload. */
interface Kept {
  scope: EditScope;
  /** What the fields held before. */
  blank: EventDraft;
  draft: EventDraft;
}

const keyOf = (id: string) => `valtro.sheet ${id}`;

const read = <T>(key: string): T | null => {
  const text = sessionStorage.getItem(key);
  return text ? (JSON.parse(text) as T) : null;
};

export const keptDraft = (id: string): Kept | null => read<Kept>(keyOf(id));

export const forgetDraft = (id: string) => sessionStorage.removeItem(keyOf(id));

/** Keeps what is typed as long as it differs from what is saved. */
export const useKeepDraft = (id: string, isDirty: boolean, kept: Kept) => {
  const text = JSON.stringify(kept);
  useEffect(() => {
    if (isDirty) sessionStorage.setItem(keyOf(id), text);
    else sessionStorage.removeItem(keyOf(id));
  }, [id, isDirty, text]);
};
