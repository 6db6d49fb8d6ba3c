import { expect, it } from 'vitest';
import { Preview } from '../../src/publish/Preview';
import type { Placed } from '../../src/publish/codes';
import type { Publication } from '../../src/shared/api/client';
import { answer } from './server';
import { stage } from './stage';

const publication = {
  id: 'p',
  key: 'families',
  title: 'Families',
  version: 3,
  changedAt: '2026-08-01T00:00:00Z',
  isPublished: true,
  hasChanges: false,
  takenDown: false,
} as Publication;

it('a preview is loaded once when it is opened, and again when something else goes out', async () => {
  let events = 4;
  const free: (() => void)[] = [];
  const shown = { calendars: [], next: [], warnings: [], readBack: { missing: [], extra: [] }, sincePublished: null };
  const asked = answer('GET /api/publications/p/proof', async () => {
    await new Promise<void>((go) => free.push(go));
    return { ...shown, events, heldBack: [], waiting: null };
  });
  const preview = (now = publication) => <Preview publication={now} placed={{} as Placed} mayLookAs={false} />;
  const screen = await stage(preview(), 'publish');
  const frame = screen.getByTitle('Preview');
  await expect.poll(() => asked.length).toBe(1);
  const element = frame.element() as HTMLIFrameElement;
  let loads = 0;
  if (element.contentDocument?.readyState !== 'complete' || element.contentDocument.URL === 'about:blank')
    await new Promise((done) => element.addEventListener('load', done, { once: true }));
  element.addEventListener('load', () => loads++);

  free[0]?.();
  await expect.element(screen.getByRole('status').filter({ hasText: /^4 / })).toBeVisible();
  expect(frame.element()).toBe(element);
  events = 5;
  void screen.queries.invalidateQueries({ queryKey: ['proof'] });
  await expect.poll(() => free.length).toBe(2);
  expect(loads).toBe(0);
  free[1]?.();
  await expect.element(screen.getByRole('status').filter({ hasText: /^5 / })).toBeVisible();
  await expect.poll(() => loads).toBe(1);

  // One of its events is another: the publication is told of before its proof.
  events = 6;
  void screen.queries.invalidateQueries({ queryKey: ['proof'] });
  await expect.poll(() => free.length).toBe(3);
  await screen.again(preview({ ...publication, changedAt: '2026-08-02T00:00:00Z' }));
  const anew = frame.element();
  expect(anew).not.toBe(element);
  await new Promise((done) => anew.addEventListener('load', done, { once: true }));
  anew.addEventListener('load', () => loads++);
  free[2]?.();
  await expect.element(screen.getByRole('status').filter({ hasText: /^6 / })).toBeVisible();
  expect(loads).toBe(1);

  // The proof is told of before the publication, which is asked for with it.
  events = 7;
  let begun = 0;
  new MutationObserver(() => begun++).observe(anew, { attributeFilter: ['src'] });
  let known: (all: Publication[]) => void = () => undefined;
  const publications = screen.queries.query({
    queryKey: ['publications'],
    queryFn: () => new Promise<Publication[]>((go) => (known = go)),
  });
  void screen.queries.invalidateQueries({ queryKey: ['proof'] });
  await expect.poll(() => free.length).toBe(4);
  free[3]?.();
  await expect.element(screen.getByRole('status').filter({ hasText: /^7 / })).toBeVisible();
  expect(begun).toBe(0);
  const other = { ...publication, changedAt: '2026-08-03T00:00:00Z' };
  await screen.again(preview(other));
  const last = frame.element();
  expect(last).not.toBe(anew);
  await new Promise((done) => last.addEventListener('load', done, { once: true }));
  last.addEventListener('load', () => loads++);
  known([other]);
  await publications;
  await expect.poll(() => screen.queries.isFetching()).toBe(0);
  expect(loads).toBe(1);
});
