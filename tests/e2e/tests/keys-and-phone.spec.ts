import { expect, type Locator, type Page } from '@playwright/test';
import { fitsTheWidth, fresh, openPlan, prepare, signIn, type Made, test } from '../support/valtro';

const WEEK = '?form=lanes&from=2031-03-10&days=7';
const TUESDAY = '2031-03-11';

// On a phone. Once the board is at rest: others work beside this journey, and rows may be drawn anew while they are looked at.
const standsHigh = (what: Locator, leastWidth = 0) =>
  expect(async () => {
    const box = await what.boundingBox();
    expect(box?.y).toBeLessThanOrEqual(200);
    expect(box?.width).toBeGreaterThanOrEqual(leastWidth);
  }).toPass();

const lane = (page: Page, calendar: Made) => page.getByRole('group', { name: calendar.title, exact: true });

test('Tab skips to the screen, the board is one stop of it, arrows go through it, and a sheet gives the focus back', async ({
  page,
}) => {
  await signIn(page);
  const calendar = await prepare(page.request).calendar(fresh('By keys'));
  await prepare(page.request).event(calendar, 'Oar shaping', TUESDAY);
  await openPlan(page, WEEK);
  await page.keyboard.press('Tab');
  await expect(page.getByRole('link', { name: 'Skip to the screen' })).toBeFocused();
  await page.keyboard.press('Enter');
  await expect(page.getByRole('main')).toBeFocused();

  const row = lane(page, calendar);
  const oar = row.getByRole('button', { name: /^Oar shaping/ });
  await row.getByRole('button', { name: `Add to ${calendar.title} on Monday 10 March` }).focus();
  await page.keyboard.press('ArrowRight');
  await page.keyboard.press('ArrowDown');
  await expect(oar).toBeFocused();
  await page.keyboard.press('Enter');
  const sheet = page.getByRole('complementary', { name: 'Oar shaping' });
  await expect(sheet).toBeFocused();
  await page.keyboard.press('Escape');
  await expect(oar).toBeFocused();
  // One step of Tab leaves the rows for good.
  await page.keyboard.press('Tab');
  await expect(oar).not.toBeFocused();
  await expect(page.locator('.board section :focus')).toHaveCount(0);
  await page.keyboard.press('Shift+Tab');
  await expect(oar).toBeFocused();

  // What is deleted leaves the focus on its day.
  await page.keyboard.press('Enter');
  await sheet.getByRole('button', { name: 'Delete' }).click();
  await expect(oar).toHaveCount(0);
  await expect(row.getByRole('button', { name: `Add to ${calendar.title} on Tuesday 11 March` })).toBeFocused();
});

test('on a phone every screen is reached, and entries come first', async ({ page }) => {
  await signIn(page);
  const calendar = await prepare(page.request).calendar(fresh('A phone'));
  await prepare(page.request).event(calendar, 'Oar shaping', TUESDAY);
  await page.setViewportSize({ width: 320, height: 800 });
  await page.goto(`/plan?form=list&from=${TUESDAY}&days=1`);
  for (const name of ['School year', 'Lists', 'Checks', 'Proposals', 'Publish', 'Plan']) {
    await page.getByRole('button', { name: 'Menu' }).click();
    await page
      .getByRole('banner')
      .getByRole('link', { name: new RegExp(`^${name}`) })
      .click();
    await expect(page).toHaveURL(new RegExp(`/${name.toLowerCase().replace(' ', '-')}`));
    await expect(page.getByRole('heading', { level: 1 })).toBeAttached();
    for (const width of [390, 320]) {
      await page.setViewportSize({ width, height: 800 });
      await fitsTheWidth(page);
    }
  }
  for (const [form, what, days] of [
    ['list', page.getByRole('row'), 1],
    ['lanes', page.getByRole('button', { name: /^Add to .* on Tuesday 11 March$/ }), 1],
    ['lanes', page.getByRole('button', { name: /^Add to .* on Tuesday 11 March$/ }), 7],
    ['lanes&by=places', page.getByRole('button', { name: /^Add .* on Tuesday 11 March$/ }), 7],
    ['hours', page.getByRole('button', { name: /^Add an event on Tuesday 11 March$/ }), 7],
  ] as const) {
    await page.goto(`/plan?form=${form}&from=${TUESDAY}&days=${days}`);
    for (const width of [390, 320]) {
      await page.setViewportSize({ width, height: 800 });
      await expect(what.first()).toBeVisible();
      // However many days there are, each has room for words.
      await standsHigh(what.first(), 90);
    }
    await fitsTheWidth(page);
    if (form === 'list') await expect(page.getByRole('row', { name: /Oar shaping/ }).first()).toBeVisible();
  }
});

test('on a phone a date is moved and copied by buttons, and undone from the menu', async ({ page }) => {
  await page.setViewportSize({ width: 390, height: 800 });
  await signIn(page);
  const calendar = await prepare(page.request).calendar(fresh('By thumb'));
  await prepare(page.request).event(calendar, 'Oar shaping', TUESDAY);
  await openPlan(page, '?form=lanes&from=2031-03-11&days=3');
  const row = lane(page, calendar);
  await row.getByRole('button', { name: /^Oar shaping/ }).click();
  const sheet = page.getByRole('complementary', { name: 'Oar shaping' });
  await sheet.getByRole('button', { name: 'A day later' }).click();
  await sheet.getByRole('button', { name: 'Save' }).click();
  await expect(page.getByText('“Oar shaping” is changed.')).toBeVisible();
  await sheet.getByRole('button', { name: 'Copy …' }).click();
  const copy = page.getByRole('complementary', { name: 'Copy “Oar shaping”' });
  await copy.getByLabel('On', { exact: true }).fill('13 march 2031');
  await copy.getByRole('button', { name: 'Copy', exact: true }).click();
  await expect(row.getByRole('button', { name: /^Oar shaping, Thursday 13 March/ })).toBeVisible();
  await expect(row.getByRole('button', { name: /^Oar shaping, Wednesday 12 March/ })).toBeVisible();
  await page.getByRole('button', { name: /language, theme, sign out/ }).click();
  await page.getByRole('button', { name: 'Undo the last step' }).click();
  await expect(row.getByRole('button', { name: /^Oar shaping, Thursday/ })).toHaveCount(0);
});

test('an event begun before is offered, what is typed stays, and nobody else finds it', async ({ page }) => {
  await signIn(page);
  const calendar = await prepare(page.request).calendar(fresh('Begun'));
  await openPlan(page, WEEK);
  const row = lane(page, calendar);
  const begin = async (day: string, line: string) => {
    await row.getByRole('button', { name: `Add to ${calendar.title} on ${day}` }).press('Enter');
    await page.keyboard.type(line);
    await page.getByRole('button', { name: 'More fields' }).click();
  };
  await begin('Monday 10 March', 'Regatta');
  const sheet = page.getByRole('complementary', { name: 'New event' });
  await sheet.getByLabel('Place').fill('Slip 2');
  await sheet.getByRole('button', { name: 'Close' }).click();

  await begin('Wednesday 12 March', 'Tar boiling');
  await expect(sheet.getByLabel('Title', { exact: true })).toHaveValue('Tar boiling');
  await expect(sheet.getByText('You had begun another event: “Regatta”')).toBeVisible();
  await sheet.getByRole('button', { name: 'Go on with it' }).click();
  await expect(sheet.getByLabel('Title', { exact: true })).toHaveValue('Regatta');
  await expect(sheet.getByLabel('Place')).toHaveValue('Slip 2');

  await page.getByRole('button', { name: /language, theme, sign out/ }).click();
  await page.getByRole('button', { name: 'Sign out', exact: true }).click();
  await expect(page.getByRole('button', { name: 'Sign in' })).toBeVisible();
  expect(await page.evaluate(() => Object.values(sessionStorage).join())).not.toContain('Regatta');
});

test('one calendar is shown alone, and the others are named in every form', async ({ page }) => {
  // What is hidden is kept with the person: Marit's board is everybody's in these tests.
  const tomas = 'tomas.reed@lanternfell.example';
  await signIn(page, tomas);
  const calendar = await prepare(page.request).calendar(fresh('Alone'));
  await openPlan(page, WEEK, tomas);
  await page.getByRole('button', { name: `${calendar.title}: fold, hide, move` }).click();
  await page.getByRole('button', { name: 'Show only this one' }).click();
  await expect(lane(page, calendar)).toBeVisible();
  await expect(page.getByRole('group', { name: 'School diary' })).toHaveCount(0);
  for (const form of ['Month', 'Hours', 'List']) {
    await page.getByRole('button', { name: form, exact: true }).click();
    await expect(page.getByRole('button', { name: 'Show School diary' })).toBeVisible();
    // Nothing is on in this one: nothing of the others is counted.
    await expect(page.getByRole('button', { name: /^\d+ more$/ })).toHaveCount(0);
  }
  // On a phone they stand below, however many they are.
  await page.setViewportSize({ width: 390, height: 800 });
  for (const form of ['Lanes', 'Hours']) {
    await page.getByRole('button', { name: form, exact: true }).click();
    await expect(page.getByText(/calendars? (is|are) hidden/).first()).toBeVisible();
    await standsHigh(page.getByRole('button', { name: /^Add .* on \w+ \d+ March$/ }).first());
  }
  await page.setViewportSize({ width: 1280, height: 800 });
  await page.getByRole('button', { name: 'Hours', exact: true }).click();
  await page.getByRole('button', { name: 'show all' }).click();
  await page.getByRole('button', { name: 'Lanes', exact: true }).click();
  await expect(page.getByRole('group', { name: 'School diary' })).toBeVisible();
});
