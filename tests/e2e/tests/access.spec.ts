import { expect } from '@playwright/test';
import { site } from '../playwright.config';
import { isAccessible, openPlan, signIn, test } from '../support/valtro';

// Everyone can use it, by day and by night.

test('ways in shut nobody out', async ({ page }) => {
  await page.goto('/');
  await expect(page.getByRole('heading', { name: 'Sign in' })).toBeVisible();
  await isAccessible(page);
  await page.goto('/join#none');
  await expect(page.getByRole('alert')).toBeVisible();
  await isAccessible(page);
  await page.goto('/new-password#none');
  await expect(page.getByLabel('New password')).toBeVisible();
  await isAccessible(page);
});

test('the board shuts nobody out, in lanes with an open sheet and by place', async ({ page }) => {
  await openPlan(page, '?form=lanes');
  await page
    .getByRole('button', { name: /^Quay duty|^Boathouse|^Slip-way|^Early row/ })
    .first()
    .click();
  await expect(page.getByRole('complementary').getByRole('textbox', { name: 'Details' })).toBeVisible();
  await isAccessible(page);
  await openPlan(page, '?form=lanes&by=places');
  await expect(page.getByRole('group', { name: 'Great hall', exact: true })).toBeVisible();
  await isAccessible(page, '.board');
});

test('the board shuts nobody out, as a month, hours and a list', async ({ page }) => {
  await openPlan(page, '?form=month');
  await expect(page.getByRole('button', { name: /^Add an event on/ }).first()).toBeAttached();
  // Every week is made alike; two say what a hundred do.
  await isAccessible(
    page,
    '.top-bar',
    '.page-head',
    '.month-heads',
    '.week.is-this-week',
    '.week.is-this-week + .week',
  );
  for (const form of ['Hours', 'List']) {
    await page.getByRole('button', { name: form, exact: true }).click();
    await expect(page.getByText('Slip-way open days').or(page.getByText('Quay duty')).first()).toBeVisible();
    await isAccessible(page, 'main');
  }
});

test('a calendar, the school year and publishing shut nobody out', async ({ page }) => {
  await openPlan(page, '?form=lanes');
  await page
    .getByRole('button', { name: /^Harbour choir/ })
    .first()
    .click();
  await expect(page.getByLabel('Role of Ines Harrow')).toBeVisible();
  await isAccessible(page, '.sheet');
  await page.goto('/school-year');
  await expect(page.getByRole('button', { name: /Storm closure/ }).first()).toBeVisible();
  // Every month is made alike.
  await isAccessible(page, '.page-head', '.year-heads', '.year-month:nth-child(5)', '.year-key', '.year-panel');
  await page.goto('/publish');
  await expect(page.getByLabel('Address of the feed')).toBeVisible();
  await expect(page.frameLocator('iframe').getByText('Times in Halifax')).toBeVisible();
  await isAccessible(page);
});

test('every other screen shuts nobody out', async ({ page }) => {
  await signIn(page);
  for (const path of ['lists', 'checks', 'bin', 'people', 'who-sees', 'proposals', 'account', 'log']) {
    await page.goto(`/${path}`);
    await expect(page.getByRole('heading', { level: 1 })).toBeVisible();
    await expect(page.getByText('Loading')).toHaveCount(0);
    await isAccessible(page, 'main');
  }
  for (const [path, heading] of [
    ['/first-run', 'Begin with your school'],
    ['/new-address#none', 'Your new address'],
  ] as const) {
    await page.goto(path);
    await expect(page.getByRole('heading', { name: heading })).toBeVisible();
    await isAccessible(page);
  }
});

test('what visitors see shuts nobody out', async ({ page }) => {
  for (const path of ['/p/lanternfell', '/p/families/embed?view=list']) {
    await page.goto(path);
    await expect(page.getByText('Times in Halifax')).toBeVisible();
    await isAccessible(page);
  }
  await page.goto(`${site}/`);
  await expect(page.frameLocator('iframe').first().getByText('Times in Halifax')).toBeVisible();
  await isAccessible(page);
});
