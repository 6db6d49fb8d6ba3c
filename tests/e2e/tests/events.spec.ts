import { expect, test } from '@playwright/test';
import { fresh, openPlan, prepare, signIn, type Made } from '../support/valtro';

// A week without closures around the change of the clocks.
const WEEK = '?form=lanes&from=2031-03-10&days=7';
const TUESDAY = '2031-03-11';

let calendar: Made;

test.beforeEach(async ({ page }) => {
  await signIn(page);
  calendar = await prepare(page.request).calendar(fresh('Sheets'));
});

test('an event is changed, deleted and brought back', async ({ page }) => {
  await prepare(page.request).event(calendar, 'Oar shaping', TUESDAY);
  await openPlan(page, WEEK);
  const lane = page.getByRole('group', { name: calendar.title, exact: true });
  await lane.getByRole('button', { name: /^Oar shaping/ }).click();
  const sheet = page.getByRole('complementary', { name: 'Oar shaping' });
  await sheet.getByLabel('From').fill('9:15');
  await sheet.getByLabel('Place').fill('Shed C');
  await sheet.getByRole('button', { name: 'Save' }).click();
  // The length stays when the start moves.
  await expect(sheet.getByLabel('To', { exact: true })).toHaveValue('10:45');
  await expect(lane.getByRole('button', { name: 'Oar shaping, Tuesday 11 March, 9:15, Shed C' })).toBeVisible();

  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(lane.getByRole('button', { name: 'Oar shaping, Tuesday 11 March, 18:00, Slip 1' })).toBeVisible();

  await sheet.getByRole('button', { name: 'Delete' }).click();
  await expect(lane.getByRole('button', { name: /^Oar shaping/ })).toHaveCount(0);
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(lane.getByRole('button', { name: /^Oar shaping/ })).toBeVisible();
});

test('a new event with all its fields repeats every second week until a date', async ({ page }) => {
  await openPlan(page, WEEK);
  const lane = page.getByRole('group', { name: calendar.title, exact: true });
  await lane.getByRole('button', { name: `Add to ${calendar.title} on Tuesday 11 March` }).click();
  await page.getByRole('button', { name: 'More fields' }).click();
  const sheet = page.getByRole('complementary', { name: 'New event' });
  await sheet.getByLabel('Title', { exact: true }).fill('Varnish');
  await sheet.getByLabel('all day').uncheck();
  await sheet.getByLabel('From').fill('13');
  await sheet.getByRole('button', { name: 'Every week' }).click();
  await sheet.getByLabel('Every', { exact: false }).last().fill('2');
  await sheet.getByLabel('Ends').selectOption('until a date');
  await sheet.getByLabel('Last date').fill('8 Apr 2031');
  await sheet.getByLabel('Last date').blur();
  await expect(sheet.getByText('Every 2 weeks on Tuesday, until 8 April 2031')).toBeVisible();
  await expect(sheet.getByText('3 dates, the last on 8 April 2031.')).toBeVisible();
  await sheet.getByRole('button', { name: 'Add event' }).click();
  await expect(lane.getByRole('button', { name: /^Varnish, Tuesday 11 March, 13:00/ })).toBeVisible();
});

test('a date of a series is left out and put back', async ({ page }) => {
  await prepare(page.request).event(calendar, 'Knots', TUESDAY, {
    rule: { frequency: 'weekly', interval: 1, days: ['tuesday', 'thursday'], count: 6, until: null },
  });
  await openPlan(page, WEEK);
  const lane = page.getByRole('group', { name: calendar.title, exact: true });
  await lane.getByRole('button', { name: /^Knots, Thursday/ }).click();
  await page.getByRole('button', { name: 'Leave out this date' }).click();
  await expect(lane.getByRole('button', { name: /^Knots, Thursday/ })).toHaveCount(0);

  await lane.getByRole('button', { name: /^Knots, Tuesday/ }).click();
  await expect(page.getByText('5 dates, the last on 27 March 2031.')).toBeVisible();
  await page.getByRole('button', { name: 'Thursday 13 March, left out; put it back' }).click();
  await expect(lane.getByRole('button', { name: /^Knots, Thursday/ })).toBeVisible();
});

test('what the server refuses stays in the fields, with the reason beside it', async ({ page }) => {
  await prepare(page.request).event(calendar, 'Tide walk', TUESDAY);
  await openPlan(page, WEEK);
  await page.getByRole('button', { name: /^Tide walk/ }).click();
  const sheet = page.getByRole('complementary', { name: 'Tide walk' });
  await sheet.getByLabel('Title', { exact: true }).fill('');
  await sheet.getByRole('textbox', { name: 'Details' }).fill('Boots, and a lamp.');
  await sheet.getByRole('button', { name: 'Save' }).click();
  await expect(sheet.getByText('A title is needed: a word is enough.')).toBeVisible();
  await expect(sheet.getByRole('textbox', { name: 'Details' })).toHaveValue('Boots, and a lamp.');
  await sheet.getByLabel('Title', { exact: true }).fill('Tide walk');
  await sheet.getByLabel('To', { exact: true }).fill('17:00');
  await sheet.getByRole('button', { name: 'Save' }).click();
  await expect(sheet.getByText('The end is before the start. Set it to the same time or later.')).toBeVisible();
  await sheet.getByLabel('To', { exact: true }).fill('20:00');
  await sheet.getByRole('button', { name: 'Save' }).click();
  await expect(page.getByRole('status')).toContainText('“Tide walk” is changed.');
});

test('two people changing one event choose between both versions', async ({ page }) => {
  const event = await prepare(page.request).event(calendar, 'Mast day', TUESDAY);
  await openPlan(page, WEEK);
  await page.getByRole('button', { name: /^Mast day/ }).click();
  const sheet = page.getByRole('complementary', { name: 'Mast day' });
  await sheet.getByLabel('Title', { exact: true }).fill('Mast day (mine)');

  const saved = await (await page.request.get(`/api/events/${event.id}`)).json();
  await page.request.put(`/api/events/${event.id}`, { data: { ...saved, title: 'Mast day (theirs)' } });

  await sheet.getByRole('button', { name: 'Save' }).click();
  await expect(sheet.getByRole('alert')).toContainText('it is now called “Mast day (theirs)”');
  await expect(sheet.getByLabel('Title', { exact: true })).toHaveValue('Mast day (mine)');
  await sheet.getByRole('button', { name: 'Keep mine' }).click();
  await expect(page.getByRole('button', { name: /^Mast day \(mine\)/ })).toBeVisible();
});

test('a half-typed line is still there after a reload', async ({ page }) => {
  await openPlan(page, WEEK);
  const add = page.getByRole('button', { name: `Add to ${calendar.title} on Tuesday 11 March` });
  const line = page.getByRole('textbox', { name: `New event in ${calendar.title}` });
  await add.click();
  await line.fill('Half a thou');
  await page.reload();
  await add.click();
  await expect(line).toHaveValue('Half a thou');
});
