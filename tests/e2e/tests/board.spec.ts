import { expect } from '@playwright/test';
import { fresh, openPlan, prepare, signIn, test } from '../support/valtro';

test('dates are typed to travel, and a link shows the same window', async ({ page }) => {
  await openPlan(page, '?form=lanes&from=2026-11-23&days=7');
  const goTo = page.getByLabel('Go to a date');
  await goTo.fill('12 May 2027');
  await goTo.press('Enter');
  await expect(page.getByRole('heading', { name: '10 – 16 May 2027' })).toBeVisible();
  await goTo.fill('someday');
  await goTo.press('Enter');
  await expect(page.getByRole('alert')).toHaveText('No date: try 12 May, week 6 or next week.');
  await expect(goTo).toHaveValue('someday');
  await page.reload();
  await expect(page.getByRole('heading', { name: '10 – 16 May 2027' })).toBeVisible();
});

test('the month shows the same events and takes a new one', async ({ page }) => {
  await signIn(page);
  const calendar = await prepare(page.request).calendar(fresh('Month'));
  await prepare(page.request).event(calendar, fresh('Moon watch'), '2031-05-14');
  await openPlan(page, '?form=lanes&from=2031-05-12&days=7');
  await expect(page.getByRole('button', { name: /^Moon watch/ })).toBeVisible();
  await page.getByRole('button', { name: 'Month', exact: true }).click();
  await expect(page.getByRole('button', { name: /^Moon watch/ }).first()).toBeVisible();

  await page.getByRole('button', { name: 'Add an event on Friday 16 May' }).click();
  await page.getByRole('button', { name: calendar.title }).last().click();
  await page.getByRole('textbox', { name: `New event in ${calendar.title}` }).fill('Star walk 21:00');
  await page.keyboard.press('Enter');
  await expect(page.getByRole('button', { name: /^Star walk, Friday 16 May, 21:00/ })).toBeVisible();
});

test('a calendar is renamed, put in the bin and taken out by undo and from the bin', async ({ page }) => {
  await signIn(page);
  const calendar = await prepare(page.request).calendar(fresh('Bin'));
  await openPlan(page);
  const lane = (title: string) => page.getByRole('group', { name: title, exact: true });
  await lane(calendar.title).getByRole('button', { name: calendar.title }).first().click();
  const renamed = fresh('Renamed');
  await page.getByLabel('Name of the calendar').fill(renamed);
  await page.getByRole('button', { name: 'Save' }).click();
  await expect(lane(renamed)).toBeVisible();
  await page.getByRole('button', { name: 'Put in the bin' }).click();
  await expect(lane(renamed)).toHaveCount(0);
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(lane(renamed)).toBeVisible();
  // Whoever finds out days later goes to the bin.
  await lane(renamed).getByRole('button', { name: renamed }).first().click();
  await page.getByRole('button', { name: 'Put in the bin' }).click();
  await expect(lane(renamed)).toHaveCount(0);
  await page.goto('/bin');
  await page.getByRole('button', { name: `Take ${renamed} out of the bin` }).click();
  await expect(page.getByRole('list', { name: 'Calendars' }).getByText(renamed)).toHaveCount(0);
  await openPlan(page);
  await expect(lane(renamed)).toBeVisible();
});
