import { readFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import AxeBuilder from '@axe-core/playwright';
import {
  expect,
  test as base,
  type APIRequestContext,
  type Browser,
  type BrowserContext,
  type Page,
} from '@playwright/test';
import type { Result, RunOptions } from 'axe-core';
import { clock, person, site } from '../playwright.config';

export const EMAIL = 'marit.quill@lanternfell.example';
export const PASSWORD = 'lantern by night';

const shift = clock ? Date.parse(clock) - Date.now() : 0;
/** The moment it is for server and browser. */
export const now = (): number => Date.now() + shift;

let made = 0;
/** The heading that calendars of tests stand under. */
const TRIALS = 'Trials';
/** The calendars a test has put there. */
const own = new Set<string>();
/** A name no other test uses. */
export const fresh = (name: string) => `${name} ${process.pid.toString(36)}${(made++).toString(36)}`;

type Cookies = Awaited<ReturnType<BrowserContext['cookies']>>;
const signedIn = new WeakMap<BrowserContext, string>();
const known = new Map<string, Cookies>();

/**
 * A test with a page of its own in a browser that a worker keeps: scripts stay compiled, and people stay signed in. Nothing
 * else goes from one test to the next: neither cookies nor what a page had stored.
 */
export const test = base.extend<object, { kept: BrowserContext }>({
  kept: [
    async ({ browser }, use) => {
      const context = await browser.newContext(person);
      // The browser's clock goes with the server's.
      if (clock)
        await context.addInitScript((by) => {
          const True = Date;
          globalThis.Date = new Proxy(True, {
            construct: (_, given: unknown[]) =>
              given.length === 0 ? new True(True.now() + by) : (Reflect.construct(True, given) as Date),
            get: (target, name) => (name === 'now' ? () => target.now() + by : (Reflect.get(target, name) as unknown)),
          });
        }, shift);
      context.setDefaultTimeout(person.actionTimeout);
      // A page that stays keeps what shows the others, with its scripts compiled and its files at hand.
      await (await context.newPage()).goto('/health/live');
      await use(context);
      await context.close();
    },
    { scope: 'worker' },
  ],
  context: async ({ kept }, use) => {
    signedIn.delete(kept);
    own.clear();
    await kept.clearCookies();
    await use(kept);
    await kept.setOffline(false);
    await kept.unrouteAll({ behavior: 'ignoreErrors' });
    await Promise.all(kept.pages().map((page, nth) => nth > 0 && page.close()));
  },
  page: async ({ context }, use, info) => {
    const page = await context.newPage();
    const browser = await context.newCDPSession(page);
    await browser.send('Storage.clearDataForOrigin', { origin: person.baseURL, storageTypes: 'local_storage' });
    await browser.detach();
    await use(page);
    // What stood there when it went wrong: of several pages the framework keeps the first, which is nobody's.
    if (info.status !== info.expectedStatus && !page.isClosed()) {
      const seen = await page
        .locator('body')
        .ariaSnapshot({ timeout: 5_000 })
        .catch(() => '');
      await info.attach('seen', { body: seen, contentType: 'text/plain' });
    }
  },
});

/** Signs in, once for a worker: hashing a password takes its time on purpose. */
export const signIn = async (page: Page, email = EMAIL) => {
  const context = page.context();
  if (signedIn.get(context) === email) return;
  signedIn.set(context, email);
  await context.clearCookies();
  const cookies = known.get(email);
  if (cookies) {
    await context.addCookies(cookies);
    if ((await page.request.get('/api/session')).ok()) return;
  }
  const answer = await page.request.post('/api/session', { data: { email, password: PASSWORD } });
  expect(answer.status()).toBe(204);
  known.set(email, await context.cookies());
};

/** The calendars of other tests, as an address hides them: a board with a hundred of them takes long to be drawn. */
const hidingOthers = async (page: Page): Promise<string> => {
  const from = new Date(now()).toISOString().slice(0, 10);
  const answer = await page.request.get('/api/board', { params: { from, to: addDays(from, 1) } });
  const { calendars } = (await answer.json()) as { calendars: { id: string; group: string }[] };
  const others = calendars.filter((c) => c.group === TRIALS && !own.has(c.id));
  return others.length > 0 ? `&hide=${others.map((c) => c.id.slice(-12)).join('.')}` : '';
};

/** Opens the board on a window, signed in; in lanes unless another form is asked for, whatever the person left it in. */
export const openPlan = async (page: Page, window = '', email = EMAIL) => {
  await signIn(page, email);
  await openOwnPlan(page, window);
};

/** The same for whoever is signed in. */
export const openOwnPlan = async (page: Page, window = '') => {
  const form = window.includes('form=') ? '' : window ? '&form=lanes' : '?form=lanes';
  await page.goto(`/plan${window}${form}${await hidingOthers(page)}`);
  await expect(
    page
      .getByRole('group', { name: 'School diary' })
      .or(page.getByRole('button', { name: 'Month' }))
      .first(),
  ).toBeVisible();
};

export interface Made {
  id: string;
  title: string;
  version: number;
}

const ok = async <T>(answer: Awaited<ReturnType<APIRequestContext['post']>>): Promise<T> => {
  expect(answer.ok(), await answer.text()).toBe(true);
  return (await answer.json()) as T;
};

/** Puts things there that a test needs but is not about. */
export const prepare = (request: APIRequestContext) => ({
  calendar: async (title: string): Promise<Made> => {
    const calendar = await ok<Made>(
      await request.post('/api/calendars', {
        data: { title, description: '', group: TRIALS, zone: 'America/Halifax', mark: 8 },
      }),
    );
    own.add(calendar.id);
    return calendar;
  },
  event: async (calendar: Made, title: string, day: string, change: object = {}): Promise<Made> =>
    ok(
      await request.post('/api/events', {
        data: {
          calendarId: calendar.id,
          title,
          place: 'Slip 1',
          description: 'Bring a rope. See https://lanternfell.example/ropes for more.',
          timing: { kind: 'zoned', start: `${day}T18:00:00`, end: `${day}T19:30:00`, zone: null },
          rule: null,
          ...change,
        },
      }),
    ),
  open: async (calendar: Made): Promise<Made> =>
    ok(
      await request.put(`/api/calendars/${calendar.id}/reach`, {
        data: { members: 'everything', linkHolders: 'everything', everyone: 'everything', version: calendar.version },
      }),
    ),
  publication: async (key: string, calendar: Made, change: object = {}): Promise<Made> =>
    ok(
      await request.post('/api/publications', {
        data: {
          key,
          title: `What is on: ${calendar.title}`,
          introduction: '',
          calendarIds: [calendar.id],
          firstView: 'month',
          language: 'en',
          ...change,
        },
      }),
    ),
  today: async (): Promise<string> =>
    (await ok<{ school: { today: string } }>(await request.get('/api/session'))).school.today,
  /** The first day after one that is in no closure. */
  openDayAfter: async (day: string): Promise<string> => {
    const years = await ok<{ closures: { first: string; last: string }[] }[]>(await request.get('/api/school-years'));
    const closures = years.flatMap((y) => y.closures);
    for (let next = addDays(day, 1); ; next = addDays(next, 1))
      if (!closures.some((c) => c.first <= next && next <= c.last)) return next;
  },
});

export const addDays = (day: string, days: number): string =>
  new Date(Date.parse(`${day}T00:00:00Z`) + days * 86_400_000).toISOString().slice(0, 10);

/** A name for a link that no other test uses. */
export const freshKey = (name: string): string => fresh(name).replaceAll(' ', '-');

/** The page needs no scrolling sideways. */
export const fitsTheWidth = (page: Page) =>
  expect
    .poll(() => page.evaluate(() => document.documentElement.scrollWidth - document.documentElement.clientWidth))
    .toBeLessThanOrEqual(0);

/** Somebody who is invited on the page of people, gets the mail, and comes in by it. */
export const invitedPerson = async (page: Page, browser: Browser, name: string): Promise<Page> => {
  const email = `${fresh('nora').toLowerCase().replace(' ', '.')}@lanternfell.example`;
  await page.goto('/people');
  await page.getByLabel('E-mail address').fill(email);
  await page.getByRole('button', { name: 'Send an invitation' }).click();
  await expect(page.getByRole('list', { name: 'Open invitations' })).toContainText(email);
  // The mail lands in the box of the stand-ins.
  const other = await (await browser.newContext()).newPage();
  await expect
    .poll(async () => {
      await other.goto(`${site}/mail`);
      return other.getByText(`to ${email}`).count();
    })
    .toBe(1);
  await other
    .getByRole('article')
    .filter({ hasText: email })
    .getByRole('link', { name: /\/join#/ })
    .click();
  await other.getByLabel('Your name').fill(name);
  await other.getByLabel('New password').fill('short');
  await other.getByRole('button', { name: 'Go in' }).click();
  await expect(other.getByText('A password has at least 10 characters.')).toBeVisible();
  await other.getByLabel('New password').fill('three small words');
  await other.getByRole('button', { name: 'Go in' }).click();
  await expect(other.getByRole('button', { name: new RegExp(name) })).toBeVisible();
  return other;
};

const axe = readFileSync(createRequire(import.meta.url).resolve('axe-core/axe.min.js'), 'utf8');

/** What is not accessible on a page (WCAG 2.2 AA), or in parts of it; by night only what colours can change. */
export const violations = async (page: Page, parts: string[] = [], isNight = false) => {
  const runOnly: RunOptions['runOnly'] = isNight
    ? { type: 'rule', values: ['color-contrast', 'link-in-text-block'] }
    : { type: 'tag', values: ['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa', 'wcag22aa'] };
  // Only what is wrong is told in full.
  const options: RunOptions = { runOnly, resultTypes: ['violations'] };
  // A colour on its way to another is none that stays.
  for (const frame of page.frames())
    await frame
      .evaluate(() => {
        for (const moving of document.getAnimations())
          if (moving.effect?.getComputedTiming().endTime !== Infinity) moving.finish();
      })
      .catch((error: unknown) => {
        // What is in a frame that has gone meanwhile nobody sees.
        if (!frame.isDetached()) throw error;
      });
  let found: Result[];
  if (page.frames().length > 1) {
    const builder = new AxeBuilder({ page }).options(options);
    for (const part of parts) builder.include(part);
    found = (await builder.analyze()).violations;
  } else {
    // Without frames nothing is put together from several, and a page is given what looks at it once.
    if (!(await page.evaluate(() => 'axe' in globalThis))) await page.evaluate(axe);
    found = await page.evaluate(
      async ([include, run]) =>
        (
          await (globalThis as unknown as { axe: typeof import('axe-core') }).axe.run(
            include.length > 0 ? { include } : document,
            run,
          )
        ).violations,
      [parts, options] as const,
    );
  }
  return found.map(
    (v) =>
      `${v.id}: ${v.nodes
        .map((n) => n.target.join(' '))
        .slice(0, 4)
        .join(' | ')}`,
  );
};

/** Nothing on a page, or in parts of it, shuts anybody out: by day and by night. */
export const isAccessible = async (page: Page, ...parts: string[]) => {
  expect(await violations(page, parts)).toEqual([]);
  await page.emulateMedia({ colorScheme: 'dark', reducedMotion: 'reduce' });
  expect(await violations(page, parts, true)).toEqual([]);
  await page.emulateMedia({ colorScheme: 'light', reducedMotion: null });
};
