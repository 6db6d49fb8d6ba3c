import { expect, test, type Page } from '@playwright/test';
import { site } from '../playwright.config';
import { openPlan, signIn } from '../support/valtro';

/** The pictures in docs/screenshots: one of each main view, from the demo data. */
const take = async (page: Page, name: string) => {
  await page.evaluate(() => document.fonts.ready);
  // Changes are waited for without an end, so the network is never idle; a moment settles the pictures.
  await page.waitForTimeout(1000);
  await page.screenshot({ path: `../../docs/screenshots/${name}.png`, animations: 'disabled' });
};

test('sign-in', async ({ page }) => {
  await page.goto('/');
  await expect(page.getByRole('heading', { name: 'Sign in' })).toBeVisible();
  await take(page, 'sign-in');
});

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

test('people', async ({ page }) => {
  await signIn(page);
  await page.goto('/people');
  await expect(page.getByText('Navigation staff')).toBeVisible();
  await take(page, 'people');
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

test('account', async ({ page }) => {
  await signIn(page);
  await page.goto('/account');
  await expect(page.getByRole('heading', { name: 'Second factor' })).toBeVisible();
  await take(page, 'account');
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

test('month', async ({ page }) => {
  await openPlan(page, '?form=month');
  await take(page, 'month');
});

test('hours', async ({ page }) => {
  await openPlan(page, '?form=hours');
  await take(page, 'hours');
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

test('embed in the website', async ({ page }) => {
  await page.goto(`${site}/`);
  await expect(page.frameLocator('iframe').getByText('Times in Halifax')).toBeVisible();
  await take(page, 'website');
});

test('embed on a phone', async ({ page }) => {
  await page.setViewportSize({ width: 390, height: 844 });
  await page.goto('/p/families/embed');
  await expect(page.getByText('Times in Halifax')).toBeVisible();
  await take(page, 'embed-phone');
});
