import { beforeEach, describe, expect, it } from 'vitest';
import type { Look, Publication, Session, Theme } from '../../src/shared/api/client';
import { PublishPage } from '../../src/publish/PublishPage';
import { draftOf } from '../../src/publish/draft';
import { calendarOf } from '../samples';
import { answer } from './server';
import { stage } from './stage';

const school = { today: '2026-11-25' } as Session['school'];
const calendars = ['Crew', 'Choir', 'Fair'].map((title) =>
  calendarOf({
    id: title,
    title,
    reach: { members: 'everything', linkHolders: 'everything', everyone: 'everything' },
  }),
);

let kept: Publication;
let events: number;
/** Answers that wait until a test lets them go; null while each goes at once. */
let held: (() => void)[] | null;
const letGo = async () => {
  const now = held?.splice(0) ?? [];
  now.forEach((go) => go());
  await new Promise((go) => setTimeout(go, 5));
};

const changed = (change: Partial<Publication>): Publication => ({ ...kept, ...change, version: kept.version + 1 });
const others = (change: Partial<Publication>) => (kept = changed({ ...change, hasChanges: true }));
const inLook = (change: Partial<Look>) => ({ look: { ...kept.look, ...change } });
const coloured = (preset: NonNullable<Theme['preset']>) =>
  inLook({ theme: { corner: 3, hasBorder: false, ...kept.look.theme, preset } });

/** A server with one publication that takes a change only of what it has. */
const serve = () => {
  const said = async (work: () => Publication | null) => {
    const made = work();
    if (made) kept = made;
    const answered = made
      ? Response.json(kept)
      : Response.json({ code: 'stale_version', detail: '', status: 409, current: kept }, { status: 409 });
    await new Promise<void>((go) => (held ? held.push(go) : go()));
    return answered;
  };
  answer('GET /api/publications', async () => {
    const now = kept;
    await new Promise<void>((go) => (held ? held.push(go) : go()));
    return [now];
  });
  answer('GET /api/board', () => ({ from: '', to: '', zone: '', days: [], calendars, occurrences: [] }));
  answer('GET /api/requests', () => []);
  answer('GET /api/people', () => ({ people: [], groups: [], invitations: [] }));
  answer('GET /api/publications/p/proof', () => ({
    events,
    heldBack: [],
    calendars: [],
    next: [],
    warnings: [],
    readBack: { missing: [], extra: [] },
    sincePublished: null,
    waiting: null,
  }));
  answer<Publication>('PUT /api/publications/p', (input) =>
    said(() => (input.version === kept.version ? changed({ ...input, key: kept.key, hasChanges: true }) : null)),
  );
  answer<{ key: string; version: number }>('POST /api/publications/p/key', ({ key, version }) =>
    said(() => (version === kept.version ? changed({ key }) : null)),
  );
  answer<{ version: number }>('POST /api/publications/p/publish', ({ version }) =>
    said(() => (version === kept.version ? changed({ isPublished: true, hasChanges: false }) : null)),
  );
  answer<{ version: number }>('POST /api/publications/p/discard', ({ version }) =>
    said(() => (version === kept.version ? changed({ hasChanges: false, introduction: 'As it is out.' }) : null)),
  );
};

beforeEach(() => {
  held = null;
  events = 3;
  kept = {
    ...draftOf(null, 'en'),
    id: 'p',
    key: 'x2y3',
    title: 'Families',
    calendarIds: ['Crew'],
    version: 1,
    isPublished: true,
    hasChanges: false,
    takenDown: false,
    mayChange: true,
    changedAt: '2026-11-01T00:00:00Z',
    links: { page: '/p/x', embed: '/p/x/embed', feed: '/p/x.ics', webcal: 'webcal://x', script: '/p/x.js' },
    sharedWith: [],
    troubles: [],
    weak: [],
    removedCss: [],
  } as unknown as Publication;
  serve();
});

const open = async () => {
  const screen = await stage(<PublishPage school={school} />, 'publish');
  await expect.element(screen.getByRole('radio', { name: 'Slate' })).toBeVisible();
  const tell = () => screen.queries.invalidateQueries({ queryKey: ['publications'] });
  return { screen, tell };
};

describe('what somebody else does to a publication', () => {
  it('comes into the fields, and stays beside what is chosen here', async () => {
    const { screen, tell } = await open();
    others({ introduction: 'Bring a lantern.', ...coloured('brick') });
    await tell();
    await expect.element(screen.getByRole('radio', { name: 'Brick' })).toBeChecked();
    await screen.getByRole('checkbox', { name: 'Choir' }).click();
    await expect.poll(() => kept.calendarIds).toEqual(['Crew', 'Choir']);
    expect(kept).toMatchObject({ introduction: 'Bring a lantern.', look: { theme: { preset: 'brick' } } });
  });

  it('is not lost when it is not told of yet, nor is the choice', async () => {
    const { screen } = await open();
    others({ calendarIds: ['Crew', 'Fair'], ...inLook({ showsPrint: true }) });
    await screen.getByRole('checkbox', { name: 'Choir' }).click();
    await expect.poll(() => kept.calendarIds).toEqual(['Crew', 'Fair', 'Choir']);
    expect(kept.look.showsPrint).toBe(true);
    await expect.element(screen.getByRole('checkbox', { name: 'Fair' })).toBeChecked();
    await expect.element(screen.getByRole('alert')).not.toBeInTheDocument();
  });

  it('does not go out unseen', async () => {
    kept = { ...kept, hasChanges: true };
    const { screen } = await open();
    others({ introduction: 'Not ready.' });
    await screen.getByRole('button', { name: 'Publish changes' }).click();
    await expect.element(screen.getByText('Their changes are taken in')).toBeVisible();
    await expect.element(screen.getByLabelText('Words under the title')).toHaveValue('Not ready.');
    expect(kept.hasChanges).toBe(true);
    await screen.getByRole('button', { name: 'Publish changes' }).click();
    await expect.poll(() => kept.hasChanges).toBe(false);
  });

  it('is gone on from as well when a backup brought back an earlier version', async () => {
    kept = { ...kept, version: 5, hasChanges: true };
    const { screen } = await open();
    kept = { ...kept, version: 2, introduction: 'As it was last week.' };
    await screen.getByRole('button', { name: 'Publish changes' }).click();
    await expect.element(screen.getByLabelText('Words under the title')).toHaveValue('As it was last week.');
    await screen.getByRole('button', { name: 'Publish changes' }).click();
    await expect.poll(() => [kept.version, kept.hasChanges]).toEqual([3, false]);
  });

  it('leaves what is being typed', async () => {
    const { screen, tell } = await open();
    await screen.getByLabelText('Words under the title').fill('Half a');
    others({ title: 'All families' });
    await tell();
    await expect.element(screen.getByLabelText('Title of the publication')).toHaveValue('All families');
    await expect.element(screen.getByLabelText('Words under the title')).toHaveValue('Half a');
  });
});

it('a choice taken back before it was kept is taken back', async () => {
  const { screen } = await open();
  held = [];
  await screen.getByRole('radio', { name: 'Slate' }).click();
  await screen.getByRole('radio', { name: 'Paper' }).click();
  await expect.element(screen.getByRole('radio', { name: 'Paper' })).toBeChecked();
  await expect.poll(() => held?.length).toBe(1);
  await letGo();
  await expect.element(screen.getByRole('radio', { name: 'Paper' })).toBeChecked();
  await expect.poll(() => held?.length).toBeGreaterThan(0);
  held = (held.forEach((go) => go()), null);
  await expect.poll(() => kept.version).toBe(3);
  expect(kept.look.theme?.preset).toBe('paper');
});

it('what would be empty is asked for first, also right after it was chosen', async () => {
  kept = { ...kept, isPublished: false };
  const { screen } = await open();
  await expect.element(screen.getByLabelText('Name in the link')).toHaveValue('families');
  events = 0;
  await screen.getByRole('checkbox', { name: 'Choir' }).click();
  await screen.getByRole('button', { name: 'Publish', exact: true }).click();
  await expect.element(screen.getByRole('alert')).toBeVisible();
  expect(kept.isPublished).toBe(false);
  events = 2;
  await screen.getByRole('checkbox', { name: 'Choir' }).click();
  await expect.element(screen.getByRole('alert')).not.toBeInTheDocument();
  await screen.getByRole('button', { name: 'Publish', exact: true }).click();
  await expect.poll(() => [kept.isPublished, kept.key]).toEqual([true, 'families']);
});

it('of whatever two people choose in whatever order both see all, and nothing that one alone chose is lost', async () => {
  // The same sequences in every run.
  let seed = 20261125;
  const any = (n: number) => ((seed = (Math.imul(seed, 1103515245) + 12345) >>> 0) >>> 8) % n;
  const oneOf = <T,>(all: readonly T[]): T => all[any(all.length)] as T;
  const PRESETS = ['Plain', 'Slate', 'Brick'];
  const { screen, tell } = await open();
  const field = (name: string) =>
    screen
      .getByRole(PRESETS.includes(name) ? 'radio' : 'checkbox', { name })
      .first()
      .element() as HTMLInputElement;
  for (let round = 0; round < 5; round++) {
    held = [];
    const last = new Map<string, { by: Set<string>; value: unknown }>();
    const says = (by: string, what: string, value: unknown) =>
      last.set(what, { by: (last.get(what)?.by ?? new Set()).add(by), value });
    for (let step = 0; step < 12; step++) {
      switch (any(6)) {
        case 0: {
          const name = oneOf(['Choir', 'Fair']);
          const box = field(name);
          box.click();
          says('me', name, box.checked);
          break;
        }
        case 1: {
          const preset = oneOf(PRESETS);
          field(preset).click();
          says('me', 'preset', preset.toLowerCase());
          break;
        }
        case 2: {
          const name = oneOf(['Choir', 'Fair']);
          const has = kept.calendarIds.includes(name);
          others({ calendarIds: has ? kept.calendarIds.filter((id) => id !== name) : [...kept.calendarIds, name] });
          says('others', name, !has);
          break;
        }
        case 3: {
          const preset = oneOf(['plain', 'slate', 'brick'] as const);
          others(coloured(preset));
          says('others', 'preset', preset);
          break;
        }
        case 4:
          void tell();
          break;
        default:
          await letGo();
      }
      await new Promise((go) => setTimeout(go, 0));
    }
    while (held.length > 0) await letGo();
    held = null;
    // What is typed last is kept last.
    await screen.getByLabelText('Words under the title').fill(`Round ${round}`);
    await screen.getByLabelText('Title of the publication').click();
    await expect.poll(() => kept.introduction).toBe(`Round ${round}`);
    await tell();
    await expect.poll(() => screen.queries.isFetching()).toBe(0);
    const shown = () => ({
      calendars: ['Choir', 'Fair'].filter((name) => field(name).checked),
      preset: PRESETS.find((name) => field(name).checked)?.toLowerCase() ?? 'paper',
    });
    const there = () => ({
      calendars: ['Choir', 'Fair'].filter((id) => kept.calendarIds.includes(id)),
      preset: kept.look.theme?.preset,
    });
    await expect
      .poll(() => [shown(), there()], { message: `round ${round}` })
      .toSatisfy(([a, b]) => JSON.stringify(a) === JSON.stringify(b));
    for (const [what, { by, value }] of last)
      if (by.size === 1)
        expect(what === 'preset' ? shown().preset : shown().calendars.includes(what), `round ${round}: ${what}`).toBe(
          value,
        );
  }
});
