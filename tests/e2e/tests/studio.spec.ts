import { expect } from '@playwright/test';
import { site } from '../playwright.config';
import { addDays, freshKey, fresh, invitedPerson, prepare, signIn, violations, test } from '../support/valtro';

test('a new publication is seen before it is out, and goes out under its name', async ({ page, browser }) => {
  await signIn(page);
  const here = prepare(page.request);
  const calendar = await here.open(await here.calendar(fresh('Begun')));
  await here.event(calendar, 'First of all', addDays(await here.today(), 1));
  const title = fresh('Begun here');
  await page.goto('/publish/new');
  await page.getByLabel('Title of the publication').fill(title);
  await page.getByRole('checkbox', { name: calendar.title }).check();
  await page.getByLabel('First view').selectOption('upcoming');
  await expect(page.frameLocator('iframe').getByText('First of all').first()).toBeVisible();
  const name = page.getByLabel('Name in the link');
  const key = freshKey('begun-here');
  await name.fill(key);
  const visitor = await (await browser.newContext()).newPage();
  expect((await visitor.goto(`/p/${key}`))?.status()).toBe(404);
  await page.getByRole('button', { name: 'Publish', exact: true }).click();
  await expect(page.getByLabel('Address of the page')).toHaveValue(new RegExp(`/p/${key}$`));
  expect((await visitor.goto(`/p/${key}`))?.status()).toBe(200);
  await expect(visitor.getByRole('heading', { name: title })).toBeVisible();
});

test('changes are seen at once by their keeper, beside what is out, and go out together', async ({ page, browser }) => {
  await signIn(page);
  const here = prepare(page.request);
  const calendar = await here.open(await here.calendar(fresh('Changing')));
  const day = await here.today();
  await here.event(calendar, 'Bow', addDays(day, 1), { facts: { tags: ['oak'] } });
  await here.event(calendar, 'Mast', addDays(day, 2));
  const key = freshKey('changing');
  const publication = await here.publication(key, calendar, { firstView: 'list' });
  await page.goto(`/publish/${publication.id}`);
  await expect(page.getByText('As a visitor with no account sees it')).toBeVisible();

  // Colours: what cannot be read is said, with the nearest that can.
  await page.getByRole('radio', { name: 'Own' }).check();
  await page.getByLabel('Ground').fill('#22303c');
  await page.getByLabel('Ground').blur();
  const weak = page.getByRole('status').filter({ hasText: 'has a contrast of' });
  await expect(weak).toHaveCount(2);
  await weak
    .filter({ hasText: 'Text on this ground' })
    .getByRole('button', { name: /^Take #/ })
    .click();
  await expect(weak).toHaveCount(1);
  await page.locator('summary').filter({ hasText: 'Letters, corners' }).click();
  await page.getByLabel('Style sheet of your own').fill('h2 { color: #fff; display: none }');
  await page.getByLabel('Style sheet of your own').blur();
  await expect(page.getByText('h2: display: none')).toBeVisible();

  await page.locator('summary').filter({ hasText: 'Only some events' }).click();
  await page.getByLabel('With one of these tags').fill('oak');
  await page.keyboard.press('Enter');
  await expect(page.getByText('Changes wait.')).toBeVisible();
  await page.getByRole('button', { name: 'Before and after' }).click();
  await expect(page.frameLocator('iframe[title="Out now"]').getByText('Mast')).toBeVisible();
  const after = page.frameLocator('iframe[title="With the changes"]');
  await expect(after.getByText('Bow')).toBeVisible();
  await expect(after.getByText('Mast')).toBeHidden();
  await expect(page.getByRole('region', { name: 'What changes for visitors' })).toContainText('1 no longer');

  const visitor = await (await browser.newContext()).newPage();
  await visitor.goto(`/p/${key}`);
  await expect(visitor.getByText('Mast')).toBeVisible();
  await page.getByRole('button', { name: 'Publish changes' }).click();
  await expect(page.getByText('Changes wait.')).toBeHidden();
  await visitor.reload();
  await expect(visitor.getByText('Bow')).toBeVisible();
  await expect(visitor.getByText('Mast')).toBeHidden();
  expect(await visitor.locator('body').evaluate((b) => getComputedStyle(b).backgroundColor)).toBe('rgb(34, 48, 60)');

  await page.getByLabel('Title of the publication').fill('Not to be');
  await page.getByLabel('Title of the publication').blur();
  await page.getByRole('button', { name: 'Leave them' }).click();
  await expect(page.getByLabel('Title of the publication')).toHaveValue(/^What is on/);
});

test('the proof, the readers and why something is not there yet', async ({ page, browser }) => {
  await signIn(page);
  const here = prepare(page.request);
  const calendar = await here.open(await here.calendar(fresh('Proven')));
  const day = await here.today();
  await here.event(calendar, 'Keel', addDays(day, 1), {
    timing: { kind: 'zoned', start: `${addDays(day, 1)}T03:00:00`, end: `${addDays(day, 1)}T04:00:00`, zone: null },
  });
  const key = freshKey('proven');
  const publication = await here.publication(key, calendar);
  const reader = await (await browser.newContext({ userAgent: 'HarbourCal/3.1 (Android 14; Mobile)' })).newPage();
  for (let i = 0; i < 3; i++) expect((await reader.request.get(`/p/${key}/feed.ics`)).status()).toBe(200);

  await page.goto(`/publish/${publication.id}`);
  await page.getByRole('button', { name: 'Proof', exact: true }).click();
  const proof = page.getByRole('region', { name: 'Proof' });
  await expect(proof).toContainText('An independent reader finds the same date in the feed');
  await expect(proof).toContainText('In the small hours; is the time zone right?');
  await expect(proof.getByRole('cell', { name: /3:00–4:00 · Keel/ })).toBeVisible();
  expect(await violations(page, ['.proof-panel'])).toEqual([]);

  await page.getByRole('button', { name: 'Readers' }).click();
  const readers = page.getByRole('region', { name: 'Readers' });
  const row = readers.getByRole('row').filter({ hasText: 'HarbourCal' });
  await expect(row).toContainText('calendar program on a phone');
  await expect(row.getByRole('cell', { name: '3', exact: true })).toBeVisible();
  await expect(readers.getByText('100 %')).toBeVisible();

  await page.getByRole('button', { name: 'Not there yet?' }).click();
  const why = page.getByRole('region', { name: 'Why is my change not there yet?' });
  await expect(why).toContainText('We ask them to come every 60 minutes; of 1 that follow the feed, 1 have the newest');
  await page.getByLabel('Words under the title').fill('Another word');
  await page.getByLabel('Words under the title').blur();
  await expect(why).toContainText('They go out when you press “Publish changes”.');
  expect(await violations(page, ['.panel'])).toEqual([]);
});

test('a member gets a link of their own to what is published for members', async ({ page, browser }) => {
  await signIn(page);
  const here = prepare(page.request);
  const calendar = await here.calendar(fresh('Inside'));
  await here.event(calendar, 'Staff row', addDays(await here.today(), 1));
  const key = freshKey('inside');
  await here.publication(key, calendar, { audience: 'members', title: fresh('For us'), firstView: 'list' });
  const visitor = await (await browser.newContext()).newPage();
  expect((await visitor.goto(`/p/${key}`))?.status()).toBe(403);
  await expect(visitor.getByRole('heading', { name: 'This calendar is for members of the school' })).toBeVisible();
  await expect(visitor.getByText('Staff row')).toBeHidden();

  const member = await invitedPerson(page, browser, 'Nora Vale');
  await member.goto(`/p/${key}`);
  await member.getByRole('link', { name: 'Sign in to read it' }).click();
  await expect(member.getByText('Staff row')).toBeVisible();
  const own = member.url();
  expect(own).not.toContain(key);
  await member.goto('/members');
  await expect(member.getByRole('listitem').filter({ hasText: 'For us' }).first()).toBeVisible();
  expect(await violations(member)).toEqual([]);
  // The link works where nobody can sign in.
  await visitor.goto(own);
  await expect(visitor.getByText('Staff row')).toBeVisible();
});

test('the code of an embed is put together and leads to what was seen', async ({ page, browser }) => {
  await signIn(page);
  const here = prepare(page.request);
  const calendar = await here.open(await here.calendar(fresh('Coded')));
  await here.event(calendar, 'Quay dance', addDays(await here.today(), 1));
  const publication = await here.publication(freshKey('coded'), calendar);
  await page.goto(`/publish/${publication.id}`);
  await page.getByLabel('How it stands there').selectOption('fixed');
  await page.getByLabel('View of this embed').selectOption('upcoming');
  await page.getByLabel('Width (px or %)').fill('wide');
  await page.keyboard.press('Enter');
  await expect(page.getByText('Write a number of pixels')).toBeVisible();
  await page.getByLabel('Width (px or %)').fill('300');
  await page.keyboard.press('Enter');
  await page.getByLabel('Height (px)').fill('420');
  await page.keyboard.press('Enter');
  await expect(page.frameLocator('iframe').getByText('Quay dance')).toBeVisible();
  const code = await page.getByLabel('Code for a website').inputValue();
  expect(code).toMatch(/width:300px;max-width:100%;height:420px/);
  const reader = await (await browser.newContext()).newPage();
  await reader.goto(site);
  await reader.setContent(`<h1>A site</h1>${code}`);
  await expect(reader.frameLocator('iframe').getByText('Quay dance')).toBeVisible();
});
