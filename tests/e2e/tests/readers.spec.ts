import { expect, type Locator, type Page } from '@playwright/test';
import { site } from '../playwright.config';
import {
  addDays,
  fitsTheWidth,
  fresh,
  freshKey,
  now,
  prepare,
  signIn,
  test,
  violations,
  type Made,
} from '../support/valtro';

const BEA = 'bea.lindqvist@lanternfell.example';

test('a teacher asks for a closed calendar, its keeper opens it, and the page fills by itself', async ({ page }) => {
  await signIn(page);
  const keeper = prepare(page.request);
  const closed = await keeper.calendar(fresh('Closed shed'));
  await keeper.event(closed, 'Shed supper', addDays(await keeper.today(), 2));

  await signIn(page, BEA);
  const to = prepare(page.request);
  const own = await to.open(await to.calendar(fresh('Her own')));
  await to.event(own, 'Knots', addDays(await to.today(), 2));
  const key = freshKey('asking');
  await page.goto('/publish/new');
  const choice = page.getByRole('region', { name: 'What is in it?' });
  await page.getByLabel('Title of the publication').fill(key);
  await choice.getByRole('checkbox', { name: own.title }).check();
  await choice.getByText(/calendars that everyone gets nothing of/).click();
  await choice.getByRole('checkbox', { name: closed.title }).check();
  await choice.getByRole('button', { name: `Ask for ${closed.title}: title, time and place` }).click();
  await expect(choice.getByText(/Asked for title, time and place on/)).toBeVisible();
  await page.getByLabel('Name in the link').fill(key);
  await page.getByRole('button', { name: 'Publish', exact: true }).click();
  await expect(page.getByLabel('Address of the feed')).toHaveValue(new RegExp(key));
  expect(await (await page.request.get(`/p/${key}/feed.ics`)).text()).not.toContain('Shed supper');

  await signIn(page);
  await page.goto('/proposals');
  const asked = page
    .getByRole('region', { name: 'Asked to open' })
    .getByRole('listitem')
    .filter({ hasText: closed.title });
  await expect(asked).toContainText(`Bea Lindqvist asks, for the publication “${key}”`);
  expect(await violations(page, ['.proposals'])).toEqual([]);
  await asked.getByLabel('A word to it').fill('Titles will do');
  await asked.getByRole('button', { name: `Open ${closed.title}: title, time and place` }).click();
  await expect(asked).toHaveCount(0);
  await expect.poll(async () => (await page.request.get(`/p/${key}/feed.ics`)).text()).toContain('Shed supper');
});

test('publishing nothing is asked about first', async ({ page }) => {
  await signIn(page, BEA);
  const to = prepare(page.request);
  const empty = await to.open(await to.calendar(fresh('Nothing yet')));
  await page.goto('/publish/new');
  await page.getByLabel('Title of the publication').fill(fresh('Empty'));
  await page.getByRole('checkbox', { name: empty.title }).check();
  await expect(page.getByRole('status').filter({ hasText: /go(es)? out/ })).toContainText('0 events go out');
  await page.getByLabel('Name in the link').fill(freshKey('empty'));
  await page.getByRole('button', { name: 'Publish', exact: true }).click();
  await expect(page.getByRole('alert')).toContainText('Nothing would go out');
  await page.getByRole('button', { name: 'Publish it empty' }).click();
  await expect(page.getByLabel('Address of the feed')).toBeVisible();
});

test.describe('a page', () => {
  let key: string;
  let day: string;
  let calendar: Made;

  test.beforeEach(async ({ page }) => {
    await signIn(page);
    const to = prepare(page.request);
    day = addDays(await to.today(), 1);
    calendar = await to.open(await to.calendar(fresh('Readers')));
    await to.event(calendar, 'Quay dance', day);
    key = freshKey('read');
    await to.publication(key, calendar);
  });

  test('is read in Arabic, from right to left, by keys, in both themes', async ({ page }) => {
    for (const colorScheme of ['light', 'dark'] as const) {
      await page.emulateMedia({ colorScheme });
      for (const [width, path] of [
        [1280, `/p/${key}`],
        [390, `/p/${key}`],
        [280, `/p/${key}/embed`],
      ] as const) {
        await page.setViewportSize({ width, height: 800 });
        await page.goto(`${path}?lang=ar`);
        await expect(page.locator('html')).toHaveAttribute('dir', 'rtl');
        await expect(page.getByText('Quay dance').locator('visible=true').first()).toBeVisible();
        await fitsTheWidth(page);
        expect(await violations(page, ['body'])).toEqual([]);
      }
    }
    // What was chosen stays when the language changes.
    await page.setViewportSize({ width: 1280, height: 800 });
    await page.goto(`/p/${key}?q=quay`);
    await page.getByRole('link', { name: 'العربية' }).focus();
    await page.keyboard.press('Enter');
    await expect(page.getByRole('searchbox')).toHaveValue('quay');
    await expect(page.locator('html')).toHaveAttribute('lang', 'ar');
    await page.emulateMedia({ colorScheme: null });
  });

  test('opens any day by a small month that Escape closes, and prints a term on two pages at most, without a button', async ({
    page,
  }) => {
    await page.goto(`/p/${key}?view=list`);
    const open = page.getByRole('button', { name: 'Go to a day' });
    await open.focus();
    await page.keyboard.press('Enter');
    await expect(page.getByRole('dialog', { name: 'Go to a day' })).toBeVisible();
    await page.keyboard.press('Escape');
    await expect(page.getByRole('dialog')).toHaveCount(0);
    await expect(open).toBeFocused();
    await open.click();
    await page.getByRole('button', { name: 'The month after' }).click();
    await page
      .getByRole('dialog')
      .getByRole('button', { name: /\b15\b/ })
      .click();
    await expect(page).toHaveURL(/date=\d{4}-\d\d-15/);
    const line = page.getByText('Subscribe').first();
    await line.click();
    await page.keyboard.press('Escape');
    await expect(page.getByRole('region', { name: 'Subscribe' })).toHaveCount(0);

    // The plan is of the term that is on, or of the next one.
    const years = (await (await page.request.get('/api/school-years')).json()) as {
      terms: { first: string; last: string }[];
    }[];
    const terms = years.flatMap((y) => y.terms).sort((a, b) => a.first.localeCompare(b.first));
    const first = terms.find((term) => term.last >= day)?.first ?? '';
    await prepare(page.request).event(calendar, 'Term song', first > day ? first : day);
    await expect(async () => {
      await page.goto(`/p/${key}/term`);
      await expect(page.getByRole('cell').filter({ hasText: 'Term song' })).toHaveCount(1, { timeout: 1000 });
    }).toPass();
    await page.emulateMedia({ media: 'print' });
    await expect(page.getByRole('button')).toHaveCount(0);
    await expect(page.getByRole('navigation')).toHaveCount(0);
    const pdf = (await page.pdf({ format: 'A4', landscape: true })).toString('latin1');
    expect(pdf.match(/\/Type\s*\/Page\b/g)?.length ?? 0).toBeLessThanOrEqual(2);
    await page.goto(`/p/${key}`);
    await expect(page.getByRole('button').locator('visible=true').filter({ hasText: 'Earlier' })).toHaveCount(0);
    await page.emulateMedia({ media: null });
  });

  test('hangs on a wall, and stays right when the connection is lost', async ({ browser, baseURL }) => {
    // Its clock is a context's, and would go on in the tests after it.
    const page = await (await browser.newContext({ baseURL })).newPage();
    await page.clock.install({ time: now() });
    await page.goto(`/p/${key}/wall`);
    await expect(page.getByText('Quay dance')).toBeVisible();
    await expect(page.getByRole('heading', { name: 'Today' })).toBeVisible();
    await page.context().setOffline(true);
    await page.clock.fastForward('24:00:00');
    await page.clock.runFor(70_000);
    // The next day has begun without it.
    const today = page.locator('section').filter({ has: page.getByRole('heading', { name: 'Today' }) });
    await expect(today.getByText('Quay dance')).toBeVisible();
    await expect(page.getByRole('status')).toContainText('As of');
    await page.context().setOffline(false);
    await page.clock.runFor(70_000);
    await expect(page.getByRole('status')).toHaveCount(0);
    await page.context().close();
  });

  test('writes to who asked for it and confirmed', async ({ page }) => {
    expect((await page.request.put('/api/reader-mail', { data: { isOn: true } })).status()).toBe(200);
    await page.context().clearCookies();
    await page.goto(`/p/${key}`);
    await page.getByRole('button', { name: 'Subscribe' }).click();
    const href = await page.getByRole('link', { name: 'By mail' }).getAttribute('href');
    await page.goto(new URL(href ?? '').pathname);
    expect(await violations(page, ['body'])).toEqual([]);
    await page.getByLabel('The plan of the week, each Sunday').check();
    await page.getByLabel('Your mail address').fill(`${key}@family.example`);
    await page.getByRole('button', { name: 'Send me the link to confirm' }).click();
    await expect(page.getByRole('heading', { name: 'Look into your mail' })).toBeVisible();
    const mail = page.getByRole('article').filter({ hasText: `${key}@family.example` });
    await expect(async () => {
      await page.goto(`${site}/mail`);
      await expect(mail).toHaveCount(1, { timeout: 1000 });
    }).toPass();
    const link = /\/follow\/confirm\/\S+/.exec((await mail.textContent()) ?? '')?.[0] ?? '';
    await page.goto(link);
    await page.getByRole('button', { name: 'Yes, send it to me' }).click();
    await expect(page.getByRole('heading', { name: 'You will get it by mail' })).toBeVisible();
  });

  // Each is a way to make words unseen, or to make them say something else.
  const TRICKS = [
    'h1, .title, h2, h3 { color: #faf7f0 }',
    'h1, .title, h2, h3 { color: rgb(250 247 240 / 100%) }',
    '.title { color: #fffdf8; background: #fffdf8 }',
    'main, li, header { background: #22302c }',
    'h1, .title { font-size: 1px; line-height: 1px }',
    'div, section, ul, li, details, summary, span { font-size: 70% }',
    '.title { font-size: xx-small } .title { letter-spacing: 40px }',
    'h1 { outline: 60px solid #faf7f0; outline-offset: -40px }',
    'h1 { box-shadow: inset 0 0 0 99px #faf7f0 } .bar { box-shadow: 0 -120px 0 90px #faf7f0 }',
    'h1, .title { text-shadow: 0 0 0 #faf7f0; opacity: 0; visibility: hidden; display: none }',
    'h1 { text-indent: -999px } .title { margin-left: -999px; position: absolute }',
    'h1 { color: #888 } header { background: #777 }',
    'h1 { & { color: #faf7f0 } } @layer a { h1 { color: #faf7f0 } }',
    'h1 { background: image-set("a" 1x); filter: opacity(0); mask: none; clip-path: circle(0) }',
  ];

  test('keeps its words to be seen, whatever style sheet is put on it', async ({ page }) => {
    test.slow();
    const all = (await (await page.request.get('/api/publications')).json()) as {
      id: string;
      key: string;
      version: number;
    }[];
    let publication = all.find((p) => p.key === key) as (typeof all)[number] & { look: { theme: object } };
    for (const [scheme, tricks] of [
      ['light', TRICKS],
      ['dark', TRICKS.slice(0, 4)],
    ] as const) {
      await page.emulateMedia({ colorScheme: scheme });
      for (const css of tricks) {
        const answer = await page.request.put(`/api/publications/${publication.id}`, {
          data: {
            ...publication,
            isOut: true,
            look: { ...publication.look, theme: { ...publication.look.theme, css } },
          },
        });
        expect(answer.status(), css).toBe(200);
        publication = (await answer.json()) as typeof publication;
        await page.goto(`/p/${key}?view=list`);
        const title = page.locator('.title').filter({ hasText: 'Quay dance' }).first();
        for (const words of [page.getByRole('heading', { level: 1 }), title])
          expect(await inkIn(page, words), `${scheme}: ${css}`).toBeGreaterThan(0.01);
        expect((await title.boundingBox())?.height ?? 0).toBeGreaterThan(10);
      }
    }
    await page.emulateMedia({ colorScheme: null });
  });
});

/** The share of pixels that stand out from their ground as text has to. */
const inkIn = async (page: Page, words: Locator): Promise<number> => {
  const picture = (await words.screenshot()).toString('base64');
  return page.evaluate(async (data) => {
    const image = new Image();
    image.src = `data:image/png;base64,${data}`;
    await image.decode();
    const canvas = Object.assign(document.createElement('canvas'), { width: image.width, height: image.height });
    const drawn = canvas.getContext('2d');
    if (!drawn) return 0;
    drawn.drawImage(image, 0, 0);
    const { data: pixels } = drawn.getImageData(0, 0, image.width, image.height);
    const lights: number[] = [];
    for (let i = 0; i < pixels.length; i += 4) {
      const [r, g, b] = [0, 1, 2].map((n) => {
        const share = (pixels[i + n] ?? 0) / 255;
        return share <= 0.04045 ? share / 12.92 : ((share + 0.055) / 1.055) ** 2.4;
      }) as [number, number, number];
      lights.push(0.2126 * r + 0.7152 * g + 0.0722 * b);
    }
    const ground = [...lights].sort((a, b) => a - b)[Math.floor(lights.length / 2)] ?? 0;
    const stands = lights.filter((l) => (Math.max(l, ground) + 0.05) / (Math.min(l, ground) + 0.05) >= 3);
    return stands.length / lights.length;
  }, picture);
};
