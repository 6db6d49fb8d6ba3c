import { useState } from 'react';
import { ApiProblem } from './api/client';

/** Whether two things say the same. */
export const same = (a: unknown, b: unknown): boolean => JSON.stringify(a) === JSON.stringify(b);

const isParts = (x: unknown): x is Record<string, unknown> => typeof x === 'object' && x !== null && !Array.isArray(x);

const isNames = (x: unknown): x is string[] => Array.isArray(x) && x.every((one) => typeof one === 'string');

/**
 * What two people made of one thing, each from what was before: what only one of them changed is as they have it, part by part
 * and name by name; of what both changed otherwise, mine.
 */
export const merged = <T>(before: T, mine: T, theirs: T): T => {
  if (same(mine, before)) return theirs;
  if (same(theirs, before)) return mine;
  if (isParts(before) && isParts(mine) && isParts(theirs)) {
    const names = new Set([...Object.keys(theirs), ...Object.keys(mine)]);
    return Object.fromEntries([...names].map((name) => [name, merged(before[name], mine[name], theirs[name])])) as T;
  }
  if (isNames(before) && isNames(mine) && isNames(theirs))
    return [
      ...theirs.filter((name) => mine.includes(name) || !before.includes(name)),
      ...mine.filter((name) => !theirs.includes(name) && !before.includes(name)),
    ] as T;
  return mine;
};

const isRows = (x: unknown): x is Record<string, unknown>[] => Array.isArray(x) && x.length > 0 && x.every(isParts);

// What the server gives a new row is its identity; all else of it stands there as it was sent.
const isKeptAs = (sent: Record<string, unknown>, saved: Record<string, unknown>) =>
  same({ ...sent, id: null }, { ...saved, id: null });

/** What was typed on over what was sent, once that is saved: as it was saved where nothing was typed on, row by row. */
export const overSaved = <T>(sent: T, typed: T, saved: T): T => {
  if (same(typed, sent)) return saved;
  if (isParts(sent) && isParts(typed) && isParts(saved))
    return Object.fromEntries(
      [...new Set([...Object.keys(saved), ...Object.keys(typed)])].map((name) => [
        name,
        overSaved(sent[name], typed[name], saved[name]),
      ]),
    ) as T;
  if (
    !isRows(sent) ||
    !isRows(typed) ||
    !isRows(saved) ||
    sent.length !== saved.length ||
    !sent.every((row, i) => isKeptAs(row, saved[i] ?? {}))
  )
    return typed;
  // A row stands where it stood; where some were taken out it is the one that says the same.
  const left = new Set(saved.keys());
  const isFewer = typed.length < sent.length;
  return typed.map((row, i) => {
    const at = isFewer ? sent.findIndex((one, n) => left.has(n) && same(one, row)) : i;
    return left.delete(at) ? overSaved<unknown>(sent[at], row, saved[at]) : row;
  }) as T;
};

/**
 * A form over one saved thing that others change too: what they change comes in beside what is typed, part by part. What is sent
 * is what stands there, over the version that `kept` is of.
 */
export const useBeside = <T>(kept: T) => {
  const [form, setForm] = useState({ base: kept, draft: kept });
  let { draft } = form;
  if (!same(form.base, kept)) {
    draft = merged(form.base, draft, kept);
    setForm({ base: kept, draft });
  }
  return { draft, isDirty: !same(draft, kept), type: (next: T) => setForm({ base: kept, draft: next }) };
};

interface StaleWrite<T> extends ApiProblem {
  /** What somebody else made of it. */
  current: T;
}

/** Whether something was refused because somebody else had changed it, and is told as it is now. */
export const isStale = <T>(error: unknown): error is StaleWrite<T> =>
  error instanceof ApiProblem && error.code === 'stale_version' && Boolean(error.current);

// Nobody is that quick for long.
const MOST_TRIES = 20;

/** Sends a choice over what is kept; where somebody else changed that, over what they made of it, however often they do. */
export const overLatest = async <T, R>(known: T, send: (now: T) => Promise<R>, tries = 1): Promise<R> => {
  try {
    return await send(known);
  } catch (error) {
    if (isStale<T>(error) && tries < MOST_TRIES) return overLatest(error.current, send, tries + 1);
    throw error;
  }
};
