import AxeBuilder from '@axe-core/playwright';
import { expect, test, type Page } from '@playwright/test';
import { site } from '../playwright.config';
import { openPlan, signIn } from '../support/valtro';

// WCAG 2.2 AA, in both themes.
const finds = async (page: Page) => {
  const { violations } = await new AxeBuilder({ page })
    .withTags(['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa', 'wcag22aa'])
    .analyze();
  return violations.map(
    (v) =>
      `${v.id}: ${v.nodes
        .map((n) => n.target.join(' '))
        .slice(0, 4)
        .join(' | ')}`,
  );
};

for (const colorScheme of ['light', 'dark'] as const) {
  test.describe(`everyone can use it, ${colorScheme}`, () => {
    test.use({ colorScheme });

    test('sign-in', async ({ page }) => {
      await page.goto('/');
      await expect(page.getByRole('heading', { name: 'Sign in' })).toBeVisible();
      expect(await finds(page)).toEqual([]);
    });

    test('lanes with an open sheet', async ({ page }) => {
      await openPlan(page, '?form=lanes');
      await page
        .getByRole('button', { name: /^Quay duty|^Boathouse|^Slip-way|^Early row/ })
        .first()
        .click();
      await expect(page.getByRole('complementary').getByRole('textbox', { name: 'Details' })).toBeVisible();
      expect(await finds(page)).toEqual([]);
    });

    test('month', async ({ page }) => {
      await openPlan(page, '?form=month');
      await expect(page.getByRole('button', { name: /^Add an event on/ }).first()).toBeAttached();
      expect(await finds(page)).toEqual([]);
    });

    test('publishing', async ({ page }) => {
      await signIn(page);
      await page.goto('/publish');
      await expect(page.getByLabel('Address of the feed')).toBeVisible();
      expect(await finds(page)).toEqual([]);
    });

    test('page, embed and an embed inside a website', async ({ page }) => {
      await page.goto('/p/lanternfell');
      await expect(page.getByText('Times in Halifax')).toBeVisible();
      expect(await finds(page)).toEqual([]);
      await page.goto('/p/families/embed?view=list');
      await expect(page.getByText('Times in Halifax')).toBeVisible();
      expect(await finds(page)).toEqual([]);
      await page.goto(`${site}/`);
      await expect(page.frameLocator('iframe').first().getByText('Times in Halifax')).toBeVisible();
      expect(await finds(page)).toEqual([]);
    });
  });
}
