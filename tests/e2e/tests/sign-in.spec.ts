import { expect } from '@playwright/test';
import { EMAIL, fresh, test } from '../support/valtro';

test('a wrong password says nothing about which part was wrong; signing in leads to where one came for, signing out ends it', async ({
  page,
}) => {
  await page.goto('/plan?form=month&from=2026-12-07');
  const email = `${fresh('nobody').replaceAll(' ', '.')}@lanternfell.example`;
  await page.getByLabel('E-mail').fill(email);
  await page.getByLabel('Password').fill('guess');
  await page.getByRole('button', { name: 'Sign in' }).click();
  await expect(page.getByRole('alert')).toHaveText(
    'E-mail and password do not fit together. Check both and try again.',
  );
  await expect(page.getByLabel('E-mail')).toHaveValue(email);

  await page.getByRole('button', { name: 'Fill in the demo sign-in' }).click();
  await expect(page.getByLabel('E-mail')).toHaveValue(EMAIL);
  await page.getByLabel('Password').press('Enter');
  await expect(page.getByRole('heading', { name: '7 December 2026 – 10 January 2027' })).toBeVisible();

  await page.getByRole('button', { name: 'Marit Quill: language, theme, sign out' }).click();
  await page.getByRole('button', { name: 'Sign out', exact: true }).click();
  await expect(page.getByRole('heading', { name: 'Sign in' })).toBeVisible();
  await page.goto('/plan');
  await expect(page.getByRole('heading', { name: 'Sign in' })).toBeVisible();
});

test('the language is chosen before signing in and stays', async ({ page }) => {
  await page.goto('/');
  await page.getByRole('button', { name: 'Français' }).click();
  await page.reload();
  await expect(page.getByRole('button', { name: 'Se connecter' })).toBeVisible();
  await expect(page.locator('html')).toHaveAttribute('lang', 'fr');
});
