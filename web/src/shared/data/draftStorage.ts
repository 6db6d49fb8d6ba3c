/**
 * What was typed and not saved: it outlives what it was typed into, a reload, and a session that ended. It is one person's,
 * and ends when they sign out or somebody else signs in at this browser.
 */
const BEGINNING = 'valtro.draft ';

let owner = '';
const keyOf = (name: string) => `${BEGINNING}${owner} ${name}`;

const remove = (isGone: (key: string) => boolean) => {
  for (const key of Object.keys(sessionStorage))
    if (key.startsWith(BEGINNING) && isGone(key)) sessionStorage.removeItem(key);
};

/** Says whose drafts are read and kept from now on; anybody else's are dropped. */
export const draftsOf = (personId: string) => {
  owner = personId;
  remove((key) => !key.startsWith(keyOf('')));
};

/** Drops all drafts, as one does who leaves. */
export const dropDrafts = () => remove(() => true);

export const readDraft = <T>(name: string): T | null => {
  const text = sessionStorage.getItem(keyOf(name));
  return text === null ? null : (JSON.parse(text) as T);
};

/** Keeps a draft under a name; null forgets it. */
export const keepDraft = (name: string, draft: unknown) => {
  if (draft === null) sessionStorage.removeItem(keyOf(name));
  else sessionStorage.setItem(keyOf(name), JSON.stringify(draft));
};
