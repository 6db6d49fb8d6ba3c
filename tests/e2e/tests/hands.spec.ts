import { expect, type Locator, type Page } from '@playwright/test';
import { fresh, openPlan, prepare, signIn, type Made, test } from '../support/valtro';

const WEEK = '?form=lanes&from=2031-03-10&days=7';
const TUESDAY = '2031-03-11';

let here: Made;
let there: Made;

test.beforeEach(async ({ page }) => {
  await signIn(page);
  const make = prepare(page.request);
  const name = fresh('Hands');
  here = await make.calendar(`${name} A`);
  there = await make.calendar(`${name} B`);
});

const lane = (page: Page, calendar: Made) => page.getByRole('group', { name: calendar.title, exact: true });
const cell = (page: Page, calendar: Made, day: string) =>
  lane(page, calendar).getByRole('button', { name: `Add to ${calendar.title} on ${day}` });

/** Drags with a real pointer, in steps, as a hand does. */
const drag = async (page: Page, what: Locator, onto: Locator, where: 'middle' | 'right end' = 'middle') => {
  await what.scrollIntoViewIfNeeded();
  const from = await what.boundingBox();
  const to = await onto.boundingBox();
  if (!from || !to) throw new Error('Not on the screen.');
  await page.mouse.move(from.x + (where === 'middle' ? from.width / 2 : from.width - 4), from.y + from.height / 2);
  await page.mouse.down();
  await page.mouse.move(to.x + to.width / 2, to.y + to.height / 2, { steps: 8 });
  await page.mouse.up();
};

test('a one-time event is dragged to another day and calendar, and back by undo', async ({ page }) => {
  await prepare(page.request).event(here, 'Oar shaping', TUESDAY);
  await openPlan(page, WEEK);
  await drag(
    page,
    lane(page, here).getByRole('button', { name: /^Oar shaping/ }),
    cell(page, there, 'Thursday 13 March'),
  );
  await expect(lane(page, there).getByRole('button', { name: /^Oar shaping, Thursday 13 March, 18:00/ })).toBeVisible();
  await expect(lane(page, here).getByRole('button', { name: /^Oar shaping/ })).toHaveCount(0);
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(lane(page, here).getByRole('button', { name: /^Oar shaping, Tuesday 11 March, 18:00/ })).toBeVisible();
});

test('a dragged date of a series is that date alone, the other scopes are one click away', async ({ page }) => {
  await prepare(page.request).event(here, 'Knots', TUESDAY, {
    rule: { frequency: 'weekly', interval: 1, days: ['tuesday', 'thursday'], count: 6, until: null },
  });
  await openPlan(page, WEEK);
  await drag(
    page,
    lane(page, here).getByRole('button', { name: /^Knots, Thursday/ }),
    cell(page, here, 'Friday 14 March'),
  );
  const sheet = page.getByRole('complementary', { name: 'Knots' });
  await expect(sheet.getByRole('button', { name: 'This date', exact: true })).toHaveAttribute('aria-pressed', 'true');
  await expect(sheet.getByLabel('Date', { exact: true })).toHaveValue(/14 Mar/);
  await sheet.getByRole('button', { name: 'Save this date' }).click();
  await expect(
    lane(page, here).getByRole('button', { name: /^Knots, Friday 14 March, 18:00, .*changed$/ }),
  ).toBeVisible();
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(lane(page, here).getByRole('button', { name: /^Knots, Thursday 13 March/ })).toBeVisible();

  await drag(
    page,
    lane(page, here).getByRole('button', { name: /^Knots, Thursday/ }),
    cell(page, here, 'Friday 14 March'),
  );
  await sheet.getByRole('button', { name: 'Every date' }).click();
  await expect(sheet.getByRole('region', { name: 'What this does' })).toContainText('3 dates move');
  await sheet.getByRole('button', { name: 'Save every date' }).click();
  await expect(lane(page, here).getByRole('button', { name: /^Knots, Friday 14 March/ })).toBeVisible();
  await expect(lane(page, here).getByRole('button', { name: /^Knots, Tuesday 11 March/ })).toBeVisible();
});

test('a series dragged to another calendar goes there whole', async ({ page }) => {
  await prepare(page.request).event(here, 'Knots', TUESDAY, {
    rule: { frequency: 'weekly', interval: 1, days: ['tuesday', 'thursday'], count: 6, until: null },
  });
  await openPlan(page, WEEK);
  await drag(
    page,
    lane(page, here).getByRole('button', { name: /^Knots, Tuesday/ }),
    cell(page, there, 'Tuesday 11 March'),
  );
  const sheet = page.getByRole('complementary', { name: 'Knots' });
  await expect(sheet.getByRole('button', { name: 'Every date', exact: true })).toHaveAttribute('aria-pressed', 'true');
  await sheet.getByRole('button', { name: 'Save every date' }).click();
  await expect(lane(page, there).getByRole('button', { name: /^Knots/ })).toHaveCount(2);
});

test('days are drawn for an event over several of them, and it is stretched', async ({ page }) => {
  await openPlan(page, WEEK);
  await drag(page, cell(page, here, 'Tuesday 11 March'), cell(page, here, 'Thursday 13 March'));
  await page.keyboard.type('Sea camp');
  await expect(page.getByRole('list', { name: 'Understood as' })).toContainText('11 – 13 March 2031');
  await page.keyboard.press('Enter');
  const bar = lane(page, here).getByRole('button', { name: /^Sea camp, 11 – 13 March 2031/ });
  await expect(bar).toBeVisible();
  await drag(page, bar, cell(page, here, 'Saturday 15 March'), 'right end');
  await expect(lane(page, here).getByRole('button', { name: /^Sea camp, 11 – 15 March 2031/ })).toBeVisible();
});

test('a copy is made by dragging with a modifier key, and by copying and pasting', async ({ page }) => {
  await prepare(page.request).event(here, 'Varnish', TUESDAY);
  await openPlan(page, WEEK);
  const first = lane(page, here).getByRole('button', { name: /^Varnish, Tuesday/ });
  await page.keyboard.down('Control');
  await drag(page, first, cell(page, there, 'Wednesday 12 March'));
  await page.keyboard.up('Control');
  await expect(lane(page, there).getByRole('button', { name: /^Varnish, Wednesday 12 March, 18:00/ })).toBeVisible();
  await expect(first).toBeVisible();

  await first.focus();
  await page.keyboard.press('Control+c');
  await expect(page.getByText('“Varnish” is copied.')).toBeVisible();
  await cell(page, here, 'Friday 14 March').focus();
  await page.keyboard.press('Control+v');
  await expect(lane(page, here).getByRole('button', { name: /^Varnish, Friday 14 March, 18:00/ })).toBeVisible();
});

test('a series is copied as a date or as a whole: dropped, and by a key', async ({ page }) => {
  await prepare(page.request).event(here, 'Caulking', TUESDAY, {
    rule: { frequency: 'weekly', interval: 1, days: ['tuesday', 'thursday'], count: 6, until: null },
  });
  await openPlan(page, WEEK);
  const first = lane(page, here).getByRole('button', { name: /^Caulking, Tuesday/ });
  await page.keyboard.down('Control');
  await drag(page, first, cell(page, there, 'Wednesday 12 March'));
  await page.keyboard.up('Control');
  const copy = page.getByRole('complementary', { name: 'Copy “Caulking”' });
  await expect(copy.getByRole('radio', { name: 'This date only' })).toBeChecked();
  await copy.getByRole('button', { name: 'Copy', exact: true }).click();
  await expect(page.getByText('“Caulking” is copied.')).toBeVisible();
  await expect(lane(page, there).getByRole('button', { name: /^Caulking/ })).toHaveCount(1);

  await first.focus();
  await page.keyboard.press('d');
  await copy.getByRole('radio', { name: 'The whole series' }).check();
  await copy.getByLabel('Calendar').selectOption({ label: there.title });
  await copy.getByLabel('On', { exact: true }).fill('25 march 2031');
  await page.keyboard.press('Enter');
  // It lies beyond what is on the screen: the way there is offered.
  await page.getByRole('link', { name: 'See it on Tuesday 25 March' }).click();
  await expect(lane(page, there).getByRole('button', { name: /^Caulking, Tuesday 25/ })).toBeVisible();
  await expect(lane(page, there).getByRole('button', { name: /^Caulking, Thursday 27/ })).toBeVisible();
});

test('everything a mouse does is done by keys', async ({ page }) => {
  await prepare(page.request).event(here, 'Sea trial', TUESDAY, {
    timing: { kind: 'allDay', start: `${TUESDAY}T00:00:00`, end: `${TUESDAY}T00:00:00`, zone: null },
  });
  await openPlan(page, WEEK);
  await lane(page, here)
    .getByRole('button', { name: /^Sea trial/ })
    .focus();
  await page.keyboard.press('Alt+ArrowRight');
  await expect(lane(page, here).getByRole('button', { name: /^Sea trial, Wednesday 12 March/ })).toBeFocused();
  await page.keyboard.press('Alt+ArrowDown');
  await expect(lane(page, there).getByRole('button', { name: /^Sea trial, Wednesday 12 March/ })).toBeFocused();
  await page.keyboard.press('Alt+Shift+ArrowRight');
  await expect(lane(page, there).getByRole('button', { name: /^Sea trial, 12 – 13 March 2031/ })).toBeFocused();
});
