import { expect, type Page } from '@playwright/test';
import { site } from '../playwright.config';
import { addDays, openPlan, prepare, signIn, test } from '../support/valtro';

/** The pictures in docs/screenshots: one of each main view, from the demo data. */
const take = async (page: Page, name: string) => {
  await page.evaluate(() => document.fonts.ready);
  // Changes are waited for without an end, so the network is never idle; a moment settles the pictures.
  await page.waitForTimeout(1000);
  await page.screenshot({ path: `../../docs/screenshots/${name}.png`, animations: 'disabled' });
};

test('lanes', async ({ page }) => {
  await openPlan(page);
  await take(page, 'lanes');
});

test('lanes with a sheet', async ({ page }) => {
  await openPlan(page);
  await page
    .getByRole('button', { name: /^(Assembly|Early row)/ })
    .first()
    .click();
  await expect(page.getByRole('region', { name: 'Dates' })).toBeVisible();
  await take(page, 'event-sheet');
});

test('an event in full', async ({ page }) => {
  await openPlan(page);
  await page
    .getByRole('button', { name: /^Slip-way open days/ })
    .first()
    .click();
  await page.getByRole('button', { name: 'Try the links as an outsider' }).click();
  await expect(page.getByText('opens', { exact: true })).toBeVisible();
  await page.getByRole('button', { name: 'Add files' }).scrollIntoViewIfNeeded();
  await page.getByRole('img', { name: /Boats on the slip/ }).scrollIntoViewIfNeeded();
  await take(page, 'event-full');
});

test('rooms by place', async ({ page }) => {
  await openPlan(page, '?form=lanes&by=places');
  await expect(page.getByText('2 at once').first()).toBeVisible();
  await take(page, 'places');
});

const AUTUMN = `Title;Date;Start;End;Room;Class;Notes
Open rehearsal;DAY1;15:00;16:30;Chapel;Harbour choir;Families may sit at the back
Knot test;DAY2;9:30;11:00;Loft 2;Rigging 2;
Lantern supper;DAY3;18h;20h;Boathouse;School diary;Bring a lantern
Boat lift;DAY4;10:00;12:00;Slip 1;School diary;
Winter market;soon;;;;School diary;
Chart reading;DAY2;13:00;14:00;Chart room;NAV 2A;`;

test('a file before it is brought in', async ({ page }) => {
  await signIn(page);
  await page.goto('/elsewhere');
  const today = await prepare(page.request).today();
  const text = AUTUMN.replaceAll('DAY1', addDays(today, 6))
    .replaceAll('DAY2', addDays(today, 9))
    .replaceAll('DAY3', addDays(today, 12))
    .replaceAll('DAY4', addDays(today, 25));
  await page
    .locator('input[type=file]')
    .setInputFiles({ name: 'autumn.csv', mimeType: 'text/csv', buffer: Buffer.from(text) });
  await page.getByRole('button', { name: /As their names say/ }).click();
  await expect(page.getByText(/5 new/)).toBeVisible();
  await page.getByRole('heading', { name: 'Bring in a file' }).scrollIntoViewIfNeeded();
  await take(page, 'bring-in');
});

test('a source that is sorted', async ({ page }) => {
  await signIn(page, 'tomas.reed@lanternfell.example');
  await page.goto('/elsewhere');
  await page.getByRole('link', { name: 'Sort Due in courses' }).click();
  await expect(page.getByText(/Tried on/)).toBeVisible();
  await take(page, 'sorting');
});

test('proposals', async ({ page }) => {
  await signIn(page);
  await page.goto('/proposals');
  await expect(page.getByText('Four Fridays before the test.')).toBeVisible();
  await page.keyboard.press('j');
  await page.keyboard.press('j');
  await expect(page.getByText('Old quay')).toBeVisible();
  await take(page, 'proposals');
});

test('who sees what', async ({ page }) => {
  await signIn(page);
  await page.goto('/who-sees');
  await expect(page.getByRole('row', { name: /^Staff/ })).toBeVisible();
  await take(page, 'who-sees');
});

test('month at night', async ({ page }) => {
  await page.emulateMedia({ colorScheme: 'dark' });
  await openPlan(page, '?form=month');
  await take(page, 'month-night');
});

test('list', async ({ page }) => {
  await openPlan(page, '?form=list');
  await page.getByRole('checkbox', { name: /^Choose Survey practice/ }).check();
  await take(page, 'list');
});

test('checks', async ({ page }) => {
  await signIn(page);
  await page.goto('/checks');
  await expect(page.getByRole('heading', { name: /^A place taken twice/ })).toBeVisible();
  await take(page, 'checks');
});

test('school year', async ({ page }) => {
  await signIn(page);
  await page.goto('/school-year');
  await expect(page.getByRole('button', { name: /Storm closure/ }).first()).toBeVisible();
  await take(page, 'school-year');
});

test('publishing', async ({ page }) => {
  await signIn(page);
  await page.goto('/publish');
  await expect(page.frameLocator('iframe').getByText('Times in Halifax')).toBeVisible();
  await take(page, 'publishing');
});

test('page', async ({ page }) => {
  await page.goto('/p/lanternfell');
  await expect(page.getByText('Times in Halifax')).toBeVisible();
  await take(page, 'page');
});

test('proof', async ({ page }) => {
  await signIn(page);
  await page.goto('/publish');
  await page.getByRole('button', { name: 'Proof', exact: true }).click();
  await expect(page.getByText('An independent reader finds')).toBeVisible();
  await page.getByRole('heading', { name: 'In a website' }).scrollIntoViewIfNeeded();
  await take(page, 'proof');
});

test('a line in doubt', async ({ page }) => {
  await openPlan(page);
  await page
    .getByRole('button', { name: /^Add to Rigging 2 on Tuesday/ })
    .first()
    .click({ force: true });
  await page.getByRole('textbox', { name: /^New event in/ }).fill('Mast climb Thu 4 Dec 6-7 @Quay #rope');
  await expect(page.getByRole('list', { name: 'In doubt' })).toContainText('morning or evening');
  await take(page, 'line-doubt');
});

test('embed in the website', async ({ page }) => {
  await page.goto(`${site}/news?key=evenings`);
  await expect(page.frameLocator('iframe').getByText('Times in Halifax')).toBeVisible();
  await take(page, 'website');
});

test('on a wall', async ({ page }) => {
  await page.goto('/p/families/wall');
  await expect(page.getByRole('heading', { name: 'Today' })).toBeVisible();
  await take(page, 'wall');
});

test('in Arabic on a phone', async ({ page }) => {
  await page.setViewportSize({ width: 390, height: 844 });
  await page.goto('/p/families?lang=ar');
  await expect(page.locator('.entry').first()).toBeVisible();
  await take(page, 'page-arabic');
});
