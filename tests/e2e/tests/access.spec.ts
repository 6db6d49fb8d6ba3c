import { expect, test } from '@playwright/test';
import { site } from '../playwright.config';
import { openPlan, signIn, violations } from '../support/valtro';

// In both themes.
for (const colorScheme of ['light', 'dark'] as const) {
  test.describe(`everyone can use it, ${colorScheme}`, () => {
    test.use({ colorScheme });

    test('sign-in', async ({ page }) => {
      await page.goto('/');
      await expect(page.getByRole('heading', { name: 'Sign in' })).toBeVisible();
      expect(await violations(page)).toEqual([]);
    });

    test('lanes with an open sheet', async ({ page }) => {
      await openPlan(page, '?form=lanes');
      await page
        .getByRole('button', { name: /^Quay duty|^Boathouse|^Slip-way|^Early row/ })
        .first()
        .click();
      await expect(page.getByRole('complementary').getByRole('textbox', { name: 'Details' })).toBeVisible();
      expect(await violations(page)).toEqual([]);
    });

    test('an invitation that does not hold, and a new password', async ({ page }) => {
      await page.goto('/join#none');
      await expect(page.getByRole('alert')).toBeVisible();
      expect(await violations(page)).toEqual([]);
      await page.goto('/new-password#none');
      await expect(page.getByLabel('New password')).toBeVisible();
      expect(await violations(page)).toEqual([]);
    });

    test('a calendar and with whom it is shared', async ({ page }) => {
      await openPlan(page, '?form=lanes');
      await page
        .getByRole('button', { name: /^Harbour choir/ })
        .first()
        .click();
      await expect(page.getByLabel('Role of Ines Harrow')).toBeVisible();
      expect(await violations(page, '.sheet')).toEqual([]);
    });

    test('school year', async ({ page }) => {
      await signIn(page);
      await page.goto('/school-year');
      await expect(page.getByRole('button', { name: /Storm closure/ }).first()).toBeVisible();
      // Every month is made alike.
      expect(
        await violations(page, '.page-head', '.year-heads', '.year-month:nth-child(5)', '.year-key', '.year-panel'),
      ).toEqual([]);
    });

    test('lanes by place', async ({ page }) => {
      await openPlan(page, '?form=lanes&by=places');
      await expect(page.getByRole('group', { name: 'Great hall', exact: true })).toBeVisible();
      expect(await violations(page)).toEqual([]);
    });

    for (const form of ['hours', 'list'])
      test(form, async ({ page }) => {
        await openPlan(page, `?form=${form}`);
        await expect(page.getByText('Slip-way open days').or(page.getByText('Quay duty')).first()).toBeVisible();
        expect(await violations(page)).toEqual([]);
      });

    for (const path of ['lists', 'checks', 'bin', 'people', 'who-sees'])
      test(path, async ({ page }) => {
        await signIn(page);
        await page.goto(`/${path}`);
        await expect(page.getByRole('heading', { level: 1 })).toBeVisible();
        expect(await violations(page)).toEqual([]);
      });

    test('month', async ({ page }) => {
      await openPlan(page, '?form=month');
      await expect(page.getByRole('button', { name: /^Add an event on/ }).first()).toBeAttached();
      // Every week is made alike; two say what a hundred do.
      expect(
        await violations(
          page,
          '.top-bar',
          '.page-head',
          '.month-heads',
          '.week.is-this-week',
          '.week.is-this-week + .week',
        ),
      ).toEqual([]);
    });

    test('publishing', async ({ page }) => {
      await signIn(page);
      await page.goto('/publish');
      await expect(page.getByLabel('Address of the feed')).toBeVisible();
      expect(await violations(page)).toEqual([]);
    });

    for (const [name, path] of [
      ['the page', '/p/lanternfell'],
      ['the embed', '/p/families/embed?view=list'],
    ] as const)
      test(name, async ({ page }) => {
        await page.goto(path);
        await expect(page.getByText('Times in Halifax')).toBeVisible();
        expect(await violations(page)).toEqual([]);
      });

    test('an embed inside a website', async ({ page }) => {
      await page.goto(`${site}/`);
      await expect(page.frameLocator('iframe').first().getByText('Times in Halifax')).toBeVisible();
      expect(await violations(page)).toEqual([]);
    });
  });
}
