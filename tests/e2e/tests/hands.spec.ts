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
  if (!from) throw new Error('Not on the screen.');
  const x = from.x + (where === 'middle' ? from.width / 2 : from.width - 4);
  const y = from.y + from.height / 2;
  await page.mouse.move(x, y);
  await page.mouse.down();
  await page.mouse.move(x + 2, y + 8, { steps: 2 });
  // Where it goes is looked for when it is in hand: what was said or opened before may have moved the rows meanwhile.
  const to = await onto.boundingBox();
  if (!to) throw new Error('Not on the screen.');
  await page.mouse.move(to.x + to.width / 2, to.y + to.height / 2, { steps: 8 });
  await page.mouse.up();
};

test('one-time events are dragged, copied, drawn over days and stretched; keys do what a mouse does', async ({
  page,
}) => {
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
  const first = lane(page, here).getByRole('button', { name: /^Oar shaping, Tuesday 11 March, 18:00/ });
  await expect(first).toBeVisible();

  // Copied, with a modifier key and by copying and pasting.
  await page.keyboard.down('Control');
  await drag(page, first, cell(page, there, 'Wednesday 12 March'));
  await page.keyboard.up('Control');
  await expect(
    lane(page, there).getByRole('button', { name: /^Oar shaping, Wednesday 12 March, 18:00/ }),
  ).toBeVisible();
  await expect(first).toBeVisible();
  await first.focus();
  await page.keyboard.press('Control+c');
  await expect(page.getByText('“Oar shaping” is copied.')).toBeVisible();
  await cell(page, here, 'Friday 14 March').focus();
  await page.keyboard.press('Control+v');
  await expect(lane(page, here).getByRole('button', { name: /^Oar shaping, Friday 14 March, 18:00/ })).toBeVisible();

  // Drawn over several days, and made longer at its end.
  await drag(page, cell(page, there, 'Monday 10 March'), cell(page, there, 'Tuesday 11 March'));
  await page.keyboard.type('Sea camp');
  await expect(page.getByRole('list', { name: 'Understood as' })).toContainText('10 – 11 March 2031');
  await page.keyboard.press('Enter');
  const bar = lane(page, there).getByRole('button', { name: /^Sea camp, 10 – 11 March 2031/ });
  await expect(bar).toBeVisible();
  await drag(page, bar, cell(page, there, 'Thursday 13 March'), 'right end');
  await expect(lane(page, there).getByRole('button', { name: /^Sea camp, 10 – 13 March 2031/ })).toBeVisible();

  // The same by keys.
  await lane(page, there)
    .getByRole('button', { name: /^Sea camp/ })
    .focus();
  await page.keyboard.press('Alt+ArrowRight');
  await expect(lane(page, there).getByRole('button', { name: /^Sea camp, 11 – 14 March 2031/ })).toBeFocused();
  await page.keyboard.press('Alt+ArrowUp');
  await expect(lane(page, here).getByRole('button', { name: /^Sea camp, 11 – 14 March 2031/ })).toBeFocused();
  await page.keyboard.press('Alt+Shift+ArrowRight');
  await expect(lane(page, here).getByRole('button', { name: /^Sea camp, 11 – 15 March 2031/ })).toBeFocused();
});

test('a series is dragged date by date or whole, and copied so', async ({ page }) => {
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
  await sheet.getByRole('button', { name: 'Every date', exact: true }).click();
  await expect(sheet.getByRole('region', { name: 'What this does' })).toContainText('3 dates move');
  await sheet.getByRole('button', { name: 'Save every date' }).click();
  await expect(lane(page, here).getByRole('button', { name: /^Knots, Friday 14 March/ })).toBeVisible();
  await expect(lane(page, here).getByRole('button', { name: /^Knots, Tuesday 11 March/ })).toBeVisible();

  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(lane(page, here).getByRole('button', { name: /^Knots, Thursday 13 March/ })).toBeVisible();

  // To another calendar it goes whole.
  await drag(
    page,
    lane(page, here).getByRole('button', { name: /^Knots, Tuesday/ }),
    cell(page, there, 'Tuesday 11 March'),
  );
  await expect(sheet.getByRole('button', { name: 'Every date', exact: true })).toHaveAttribute('aria-pressed', 'true');
  await sheet.getByRole('button', { name: 'Save every date' }).click();
  await expect(lane(page, there).getByRole('button', { name: /^Knots/ })).toHaveCount(2);

  // A copy is a date or the whole series.
  const first = lane(page, there).getByRole('button', { name: /^Knots, Tuesday/ });
  await page.keyboard.down('Control');
  await drag(page, first, cell(page, here, 'Wednesday 12 March'));
  await page.keyboard.up('Control');
  const copy = page.getByRole('complementary', { name: 'Copy “Knots”' });
  await expect(copy.getByRole('radio', { name: 'This date only' })).toBeChecked();
  await copy.getByRole('button', { name: 'Copy', exact: true }).click();
  await expect(page.getByText('“Knots” is copied.')).toBeVisible();
  await expect(lane(page, here).getByRole('button', { name: /^Knots/ })).toHaveCount(1);

  await first.focus();
  await page.keyboard.press('d');
  await copy.getByRole('radio', { name: 'The whole series' }).check();
  await copy.getByLabel('Calendar').selectOption({ label: here.title });
  await copy.getByLabel('On', { exact: true }).fill('25 march 2031');
  await page.keyboard.press('Enter');
  // It lies beyond what is on the screen: the way there is offered.
  await page.getByRole('link', { name: 'See it on Tuesday 25 March' }).click();
  await expect(lane(page, here).getByRole('button', { name: /^Knots, Tuesday 25/ })).toBeVisible();
  await expect(lane(page, here).getByRole('button', { name: /^Knots, Thursday 27/ })).toBeVisible();
});
