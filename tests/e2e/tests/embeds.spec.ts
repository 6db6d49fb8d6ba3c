import { expect, type Browser, type Page } from '@playwright/test';
import { port, site } from '../playwright.config';
import { addDays, fitsTheWidth, freshKey, fresh, prepare, signIn, violations, test } from '../support/valtro';

// Embeds as visitors find them: in a website and in a learning platform, both of other origins, with no account.
const platform = `http://127.0.0.1:${port + 1}`;

const published = async (page: Page, name: string, change: object = {}): Promise<string> => {
  await signIn(page);
  const here = prepare(page.request);
  const calendar = await here.open(await here.calendar(fresh(name)));
  const day = await here.today();
  await here.event(calendar, 'Quay dance', addDays(day, 1));
  await here.event(calendar, 'Net mending', addDays(day, 2), {
    timing: { kind: 'allDay', start: `${addDays(day, 2)}T00:00:00`, end: `${addDays(day, 4)}T00:00:00`, zone: null },
  });
  const key = freshKey(name.toLowerCase());
  await here.publication(key, calendar, change);
  return key;
};

const visitor = async (browser: Browser, options: object = {}) => (await browser.newContext(options)).newPage();

const outer = (page: Page, title: string) => page.locator(`iframe[title="${title}"]`);

test('a website shows a frame as high as what is in it, or where its placeholder stands; a learning platform shows it without scripts', async ({
  page,
  browser,
}) => {
  const key = await published(page, 'Framed', { firstView: 'list' });
  const reader = await visitor(browser);
  await reader.goto(`${site}/calendar?key=${key}`);
  const frame = reader.frameLocator('iframe');
  await expect(frame.getByText('Quay dance')).toBeVisible();
  const heights = async () => ({
    outside: await outer(reader, 'Lanternfell: what is on').evaluate((f) => f.clientHeight),
    inside: await frame.locator('body').evaluate((b) => b.scrollHeight),
  });
  // It was 760 high: the helper made it as high as the list is, with no second scroll bar.
  await expect.poll(async () => (await heights()).outside).toBeLessThan(700);
  await frame.getByText('Quay dance').click();
  await expect(frame.getByText('Bring a rope.').filter({ visible: true })).toBeVisible();
  await expect
    .poll(async () => {
      const { outside, inside } = await heights();
      return outside - inside;
    })
    .toBeGreaterThanOrEqual(0);
  expect(await violations(reader)).toEqual([]);

  // A script makes the frame.
  await reader.goto(`${site}/news?key=${key}&view=cards`);
  const placed = reader.frameLocator('iframe[title="What you can come to"]');
  await expect(placed.getByRole('link', { name: 'Quay dance' })).toHaveAttribute('href', new RegExp(`/p/${key}/e/`));
  await expect(placed.getByText('Slip 1').first()).toBeVisible();
  expect(await violations(reader)).toEqual([]);

  // A learning platform takes no scripts, and a reader may have none.
  for (const options of [{}, { javaScriptEnabled: false }]) {
    const learner = await visitor(browser, options);
    await learner.goto(`${platform}/course?key=${key}&view=list`);
    const course = learner.frameLocator('iframe[title="Dates of the class"]');
    await expect(course.getByText('Quay dance')).toBeVisible();
    await expect(course.getByText('18:00').first()).toBeVisible();
    await course.getByText('Quay dance').click();
    await expect(course.getByText('Bring a rope.').filter({ visible: true })).toBeVisible();
    await learner.context().close();
  }
});

test('a small month tells a day’s events on hover, by keys, and by a tap', async ({ page, browser }) => {
  const key = await published(page, 'Small');
  const tomorrow = addDays(await prepare(page.request).today(), 1);
  const name = new RegExp(` ${Number(tomorrow.slice(8))} [A-Z][a-z]+ ${tomorrow.slice(0, 4)} \\(1\\)`);
  const reader = await visitor(browser, { hasTouch: true });
  await reader.goto(`${platform}/course?key=${key}&view=small`);
  const frame = reader.frameLocator('iframe');
  const day = frame.getByRole('button', { name });
  await expect(frame.getByRole('button', { name: /\(0\)/ }).first()).toBeVisible();
  // On the last of a month that ends with its week, tomorrow is in the next.
  if (!(await day.count())) await frame.getByRole('button', { name: 'Later' }).click();
  await day.hover();
  await expect(frame.getByText('Quay dance')).toBeVisible();
  const other = frame.getByRole('button', { name: /\(0\)/ }).first();
  await other.focus();
  await expect(frame.getByText('Quay dance')).toBeHidden();
  await day.focus();
  await expect(frame.getByText('Quay dance')).toBeVisible();
  await expect(frame.getByRole('link', { name: 'Whole calendar' })).toHaveAttribute('href', /view=list&date=/);

  await reader.goto(`/p/${key}/embed?view=small&date=${tomorrow}`);
  await reader.getByRole('button', { name: /\(0\)/ }).first().tap();
  await expect(reader.getByText('Quay dance')).toBeHidden();
  await reader.getByRole('button', { name }).tap();
  await expect(reader.getByText('Quay dance')).toBeVisible();
});

test('on a phone, by keys and at night an embed is read in the site', async ({ page, browser }) => {
  const key = await published(page, 'Phone', {
    firstView: 'month',
    look: { views: ['month', 'week', 'day', 'list'], theme: { preset: 'slate', light: 'reader', hasBorder: true } },
  });
  const reader = await visitor(browser, { viewport: { width: 390, height: 800 }, colorScheme: 'dark' });
  await reader.goto(`${site}/calendar?key=${key}`);
  const frame = reader.frameLocator('iframe');
  await expect(frame.getByRole('button', { name: 'Month', pressed: true })).toBeVisible();
  await fitsTheWidth(reader);
  // By night its ground is dark, whatever the site's is.
  const ground = await frame.locator('body').evaluate((b) => getComputedStyle(b).backgroundColor);
  expect(ground).toBe('rgb(23, 28, 34)');
  await frame.getByRole('button', { name: 'Week' }).focus();
  await reader.keyboard.press('Enter');
  await expect(frame.getByRole('button', { name: 'Week', pressed: true })).toBeVisible();
  await frame.getByRole('button', { name: 'List', exact: true }).focus();
  await reader.keyboard.press('Enter');
  const line = frame.locator('summary').filter({ hasText: 'Quay dance' });
  await line.focus();
  await reader.keyboard.press('Enter');
  await expect(frame.getByText('Bring a rope.').filter({ visible: true })).toBeVisible();
  expect(await violations(reader)).toEqual([]);
});

test('a site that is not on the list cannot show it', async ({ page, browser }) => {
  const here = new URL(site).host;
  const shut = await published(page, 'Shut out', { look: { sites: ['https://elsewhere.example'] } });
  const open = await published(page, 'Let in', { look: { sites: [`http://${here}`] } });
  const reader = await visitor(browser);
  await reader.goto(`${site}/calendar?key=${shut}`);
  // Words instead of a browser's error, and the way to where it can be read.
  const frame = reader.frameLocator('iframe');
  await expect(frame.getByRole('heading', { name: 'This calendar is not shown on this site' })).toBeVisible();
  await expect(frame.getByRole('link')).toHaveAttribute('href', new RegExp(`/p/${shut}$`));
  await expect(reader.frameLocator('iframe').getByText('Quay dance')).toBeHidden();
  await reader.goto(`${site}/calendar?key=${open}`);
  await expect(reader.frameLocator('iframe').getByText('Quay dance').first()).toBeVisible();
});

test('times are told in the reader’s zone where that is chosen', async ({ page, browser }) => {
  const key = await published(page, 'Far away', {
    firstView: 'list',
    look: { isReadersZone: true, hours: 'twelve' },
  });
  const reader = await visitor(browser, { timezoneId: 'Asia/Tokyo' });
  await reader.goto(`/p/${key}/embed`);
  // Six in the evening in Halifax is the next morning in Tokyo.
  await expect(reader.getByText(/\b[67]:00 am\b/).first()).toBeVisible();
  await expect(reader.getByText('Times in Tokyo')).toBeVisible();
});
