import { createHmac } from 'node:crypto';
import { expect, type Page } from '@playwright/test';
import { site } from '../playwright.config';
import { fresh, invitedPerson, openPlan, prepare, signIn, type Made, now, test } from '../support/valtro';

const PASSWORD = 'three small words';
// A week of no school year.
const WEEK = '2035-03-05';

const lane = (page: Page, calendar: Made) => page.getByRole('group', { name: calendar.title, exact: true });

/** The code an authenticator shows for a secret (RFC 6238). */
const codeOf = (secret: string, step = Math.floor(now() / 30_000)): string => {
  const letters = 'ABCDEFGHIJKLMNOPQRSTUVWXYZ234567';
  const bits = [...secret].map((c) => letters.indexOf(c).toString(2).padStart(5, '0')).join('');
  const key = Buffer.from((bits.match(/.{8}/g) ?? []).map((byte) => parseInt(byte, 2)));
  const counter = Buffer.alloc(8);
  counter.writeBigUInt64BE(BigInt(step));
  const hash = createHmac('sha1', key).update(counter).digest();
  const at = (hash.at(-1) ?? 0) & 15;
  return String((hash.readUInt32BE(at) & 0x7fffffff) % 1_000_000).padStart(6, '0');
};

test('a person has dates, times, language and theme as they want, on every screen', async ({ page, browser }) => {
  await signIn(page);
  const calendar = await prepare(page.request).calendar(fresh('In my way'));
  await prepare(page.request).event(calendar, 'Hull talk', '2035-03-08');
  const nora = await invitedPerson(page, browser, fresh('Nora Lund'));
  await nora.goto('/account');
  await nora.getByLabel('Clock').selectOption('2:30 pm');
  await nora.getByRole('combobox', { name: 'Dates' }).selectOption('November 23');
  // What was kept before says so too: the last one is waited for.
  const kept = nora.waitForResponse((r) => r.url().endsWith('/api/me/settings') && r.request().method() === 'PUT');
  await nora.getByLabel('The week begins on').selectOption('Sunday');
  await kept;
  await expect(nora.getByText('Kept.')).toBeVisible();
  await nora.goto(`/plan?form=lanes&from=${WEEK}`);
  await lane(nora, calendar).scrollIntoViewIfNeeded();
  await expect(
    lane(nora, calendar).getByRole('button', { name: /^Hull talk, Thursday March 8, 6:00 pm/ }),
  ).toBeVisible();
  await nora.getByRole('button', { name: 'Month', exact: true }).click();
  await expect(nora.getByRole('heading', { name: /^March 4 – / })).toBeVisible();
  // London is four hours ahead of Halifax then.
  await nora.goto('/account');
  await nora.getByLabel('Time zone').fill('Europe/London');
  await nora.keyboard.press('Tab');
  await expect(nora.getByText('Kept.')).toBeVisible();
  await nora.goto(`/plan?form=lanes&from=${WEEK}`);
  await lane(nora, calendar).scrollIntoViewIfNeeded();
  await expect(
    lane(nora, calendar).getByRole('button', { name: /^Hull talk, Thursday March 8, 10:00 pm/ }),
  ).toBeVisible();
  await expect(nora.getByText(/London/).first()).toBeVisible();
  // Language and theme are chosen in the menu too, and stay in another browser.
  await nora.goto('/plan?form=lanes&from=2026-11-23&days=7');
  const menu = nora.locator('.top-person button').first();
  await menu.click();
  await nora.getByRole('button', { name: 'Night' }).click();
  await expect(nora.locator('html')).toHaveAttribute('data-bs-theme', 'dark');
  await menu.click();
  await nora.getByRole('button', { name: 'Français' }).click();
  await expect(nora.getByRole('heading', { name: /novembre 2026/ })).toBeVisible();
  // What this browser remembers is forgotten; the person's own stays.
  await nora.evaluate(() => localStorage.clear());
  await nora.reload();
  await expect(nora.locator('html')).toHaveAttribute('data-bs-theme', 'dark');
  await expect(nora.getByRole('heading', { name: /novembre 2026/ })).toBeVisible();
  await nora.goto('/account');
  await expect(nora.getByRole('heading', { name: 'Votre compte' })).toBeVisible();
  await nora.getByRole('combobox', { name: 'Langue' }).selectOption('English');
  await expect(nora.getByRole('heading', { name: 'Your account' })).toBeVisible();
  await nora.context().close();
});

test('a second factor is set up, asked for, and lost; another address counts once its link is opened', async ({
  page,
  browser,
}) => {
  await signIn(page);
  const nora = await invitedPerson(page, browser, fresh('Nora Wind'));
  await nora.goto('/account');
  const email =
    (
      await nora
        .getByText(/@lanternfell.example/)
        .first()
        .innerText()
    ).split(' · ')[1] ?? '';
  const block = nora.getByRole('region', { name: 'Second factor' });
  await block.getByRole('button', { name: 'Turn it on' }).click();
  await block.getByLabel('Your password').fill('guess');
  await block.getByRole('button', { name: 'Go on' }).click();
  await expect(block.getByText('This is not your password.')).toBeVisible();
  await block.getByLabel('Your password').fill(PASSWORD);
  await block.getByRole('button', { name: 'Go on' }).click();
  await expect(block.getByRole('img', { name: 'The secret as a square code' })).toBeVisible();
  const secret = await block.getByRole('textbox', { name: 'Secret' }).inputValue();
  await block.getByLabel('Code', { exact: true }).fill(codeOf(secret));
  await block.getByRole('button', { name: 'Confirm' }).click();
  await expect(block.getByText('Each of these codes lets you in once')).toBeVisible();
  const codes = await block.getByRole('listitem').allInnerTexts();
  expect(codes).toHaveLength(10);
  await block.getByRole('button', { name: 'I have kept them' }).click();
  await expect(block.getByText('10 recovery codes left')).toBeVisible();

  const other = await (await browser.newContext()).newPage();
  await other.goto('/');
  await other.getByLabel('E-mail', { exact: true }).fill(email);
  await other.getByLabel('Password').fill(PASSWORD);
  await other.getByRole('button', { name: 'Sign in' }).click();
  const code = other.getByLabel('Code of your authenticator, or a recovery code');
  await code.fill('000000');
  await other.getByRole('button', { name: 'Sign in' }).click();
  await expect(other.getByRole('alert')).toContainText('This code does not fit');
  await code.fill(codes[0] ?? '');
  await other.getByRole('button', { name: 'Sign in' }).click();
  await expect(other.getByRole('link', { name: 'Plan' })).toBeVisible();

  // The other place is signed out from here, and shows it by itself.
  await nora.reload();
  await nora.getByRole('button', { name: 'Sign out everywhere else' }).click();
  await expect(nora.getByText('All other places are signed out.')).toBeVisible();
  await expect(other.getByRole('heading', { name: 'Sign in' })).toBeVisible();
  // The password alone does not turn it off.
  await block.getByRole('button', { name: 'Turn it off' }).click();
  await block.getByLabel('Your password').fill(PASSWORD);
  await expect(block.getByRole('button', { name: 'Turn it off' })).toBeDisabled();
  await block.getByLabel('Code', { exact: true }).fill('000000');
  await block.getByRole('button', { name: 'Turn it off' }).click();
  await expect(block.getByText('This code does not fit')).toBeVisible();
  await block.getByLabel('Code', { exact: true }).fill(codes[1] ?? '');
  await block.getByRole('button', { name: 'Turn it off' }).click();
  await expect(block.getByRole('button', { name: 'Turn it on' })).toBeVisible();
  await other.context().close();

  const own = `${fresh('reef').toLowerCase().replace(' ', '.')}@lanternfell.example`;
  const address = nora.getByRole('region', { name: 'Address' });
  await address.getByLabel('New address').fill(own);
  await address.getByLabel('Your password').fill(PASSWORD);
  await address.getByRole('button', { name: 'Send the link' }).click();
  await expect(nora.getByText(`A link is on its way to ${own}.`)).toBeVisible();
  await expect
    .poll(async () => {
      await nora.goto(`${site}/mail`);
      return nora.getByText(`to ${own}`).count();
    })
    .toBe(1);
  await nora
    .getByRole('article')
    .filter({ hasText: `to ${own}` })
    .getByRole('link', { name: /\/new-address#/ })
    .click();
  await nora.getByRole('button', { name: 'This address is mine' }).click();
  await expect(nora.getByText('From now on you sign in with this address.')).toBeVisible();
  await nora.goto('/account');
  await expect(nora.getByText(`You sign in with ${own}.`)).toBeVisible();
  await nora.context().close();
});

test('who left is given out and erased, and the log tells of it', async ({ page, browser }) => {
  await signIn(page);
  const name = fresh('Nora Gone');
  const nora = await invitedPerson(page, browser, name);
  await nora.context().close();
  await page.goto('/people');
  const row = page.getByRole('listitem', { name });
  await row.getByText('More').click();
  const [download] = await Promise.all([
    page.waitForEvent('download'),
    row.getByRole('link', { name: 'Their data' }).click(),
  ]);
  expect(download.suggestedFilename()).toBe('personal-data.json');
  await row.getByRole('button', { name: `Take ${name} out of the school` }).click();
  await row.getByRole('button', { name: 'Take out', exact: true }).last().click();
  await expect(row).toHaveCount(0);
  await page.getByRole('button', { name: `Erase the data of ${name}` }).click();
  await expect(page.getByRole('alert')).toContainText('stays in the history without a name');
  await page.getByRole('button', { name: 'Erase for good' }).click();
  await expect(page.getByText(name)).toHaveCount(0);

  await page.goto('/log');
  await expect(page.getByRole('row', { name: /Marit Quill erased somebody’s data/ }).first()).toBeVisible();
  await page.getByLabel('Whose').selectOption('Marit Quill');
  await expect(page.getByRole('row', { name: /Marit Quill invited somebody/ }).first()).toBeVisible();

  await page.getByRole('button', { name: 'Marit Quill' }).click();
  await page.getByRole('link', { name: 'Limits' }).click();
  await expect(page.getByRole('progressbar', { name: 'Events' })).toBeVisible();
  await expect(page.getByText(/^\d+ of 2,000$/)).toBeVisible();
});

test('a calendar is opened step by step, kept from search engines, and handed over', async ({ page, browser }) => {
  await signIn(page);
  const calendar = await prepare(page.request).calendar(fresh('By steps'));
  await prepare(page.request).event(calendar, 'Hull talk', '2035-03-08');
  await openPlan(page, `?form=lanes&from=${WEEK}`);
  await lane(page, calendar).getByRole('button', { name: calendar.title, exact: false }).first().click();
  const sheet = page.getByRole('complementary', { name: calendar.title });
  const reach = (who: string) => sheet.getByLabel(`What ${who} get of the calendar`);
  await reach('Link holders').selectOption('times only');
  await expect(sheet.getByRole('alert')).toContainText('Whoever has a link can then read');
  await expect(sheet.getByRole('alert')).toContainText('one event, from 8 March 2035 on, with the times');
  await sheet.getByRole('button', { name: 'Not now' }).click();
  await expect(reach('Link holders')).toHaveValue('nothing');
  await reach('Everyone').selectOption('title, time and place');
  await expect(sheet.getByRole('alert')).toContainText('Search engines may list it once it is published.');
  await sheet.getByRole('button', { name: 'Open it' }).click();
  await expect(reach('Link holders')).toHaveValue('headlines');
  await sheet.getByLabel('Keep out of search engines').click();
  await expect(sheet.getByLabel('Keep out of search engines')).toBeChecked();
  await expect(page.getByText(/is changed\./)).toBeVisible();
  // Closing asks nothing, and takes the wider ones along.
  await reach('Members').selectOption('times only');
  await expect(reach('Everyone')).toHaveValue('timesOnly');

  const key = fresh('by-steps').replace(' ', '-');
  await prepare(page.request).publication(key, calendar);
  const visitor = await (await browser.newContext()).newPage();
  const answer = await visitor.goto(`/p/${key}`);
  expect(answer?.headers()['x-robots-tag']).toBe('noindex');
  await visitor.context().close();

  await sheet.getByLabel('hand over to …').selectOption('Ines Harrow');
  await expect(sheet.getByLabel('Role of Ines Harrow')).toHaveValue('keeper');
  await expect(sheet.getByLabel('Role of Marit Quill')).toHaveValue('editor');
});

test('the keeper reads the page as members would', async ({ page, context }) => {
  await signIn(page);
  const here = prepare(page.request);
  const calendar = await here.calendar(fresh('Not yet open'));
  const day = await here.today();
  await here.event(calendar, 'Quiet hull', day);
  const published = await here.publication(fresh('not-yet').replace(' ', '-'), calendar);
  await page.goto(`/publish/${published.id}`);
  await page.getByLabel('Look as').selectOption('Look as: members of the school');
  const [tab] = await Promise.all([
    context.waitForEvent('page'),
    page.getByRole('link', { name: 'The page as members of the school' }).click(),
  ]);
  await expect(tab.getByText('Quiet hull').first()).toBeVisible();
  const everyone = await page.request.get(`/api/publications/${published.id}/look/page?look=everyone`);
  expect(await everyone.text()).not.toContain('Quiet hull');
});
