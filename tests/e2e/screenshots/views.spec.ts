import { expect, test, type Page } from '@playwright/test';
import { site } from '../playwright.config';
import { openPlan, signIn } from '../support/valtro';

/** The pictures in docs/screenshots: one of each main view, from the demo data. */
const take = async (page: Page, name: string) => {
  await page.evaluate(() => document.fonts.ready);
  // Nothing is still on its way.
  await page.waitForLoadState('networkidle');
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

test('month at night', async ({ page }) => {
  await page.emulateMedia({ colorScheme: 'dark' });
  await openPlan(page, '?form=month');
  await take(page, 'month-night');
});

test('month', async ({ page }) => {
  await openPlan(page, '?form=month');
  await take(page, 'month');
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
