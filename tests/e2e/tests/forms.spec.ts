import { expect, type Page } from '@playwright/test';
import { addDays, fresh, openPlan, prepare, signIn, type Made, test } from '../support/valtro';

// A week of no school year: 11 March 2031 is a Tuesday.
const MONDAY = '2031-03-10';
const TUESDAY = '2031-03-11';

let calendar: Made;

test.beforeEach(async ({ page }) => {
  await signIn(page);
  calendar = await prepare(page.request).calendar(fresh('Forms'));
});

const open = async (page: Page, form: string, extra = '') => {
  await page.goto(`/plan?form=${form}&from=${MONDAY}${extra}`);
  await expect(page.getByRole('button', { name: /^Lanes|^Bahnen/ }).first()).toBeVisible();
};

test.describe('hours', () => {
  test('show events against the clock: one is moved and made longer by mouse and by keys, and one is drawn', async ({
    page,
  }) => {
    await prepare(page.request).event(calendar, 'Plank bending', TUESDAY, {
      timing: { kind: 'zoned', start: `${TUESDAY}T10:00:00`, end: `${TUESDAY}T11:00:00`, zone: null },
    });
    await open(page, 'hours', '&days=3');
    const entry = page.getByRole('button', { name: /^Plank bending/ });
    const box = await entry.boundingBox();
    if (!box) throw new Error('Not on the screen.');
    // An hour is 44 pixels: two hours down.
    await page.mouse.move(box.x + 20, box.y + 20);
    await page.mouse.down();
    await page.mouse.move(box.x + 20, box.y + 108, { steps: 6 });
    await page.mouse.up();
    await expect(entry).toHaveAccessibleName(/Tuesday 11 March, 12:00/);
    await entry.focus();
    await page.keyboard.press('Alt+ArrowUp');
    await expect(entry).toHaveAccessibleName(/Tuesday 11 March, 11:45/);
    await expect(entry).toBeFocused();
    await page.keyboard.press('Alt+Shift+ArrowDown');
    await expect(page.getByText('“Plank bending” is changed.')).toBeVisible();
    await entry.click();
    await expect(page.getByRole('complementary').getByLabel('To', { exact: true })).toHaveValue('13:00');

    // A new one is drawn, and asks for its calendar.
    await page.getByRole('complementary').getByRole('button', { name: 'Close' }).click();
    const column = page.getByRole('button', { name: 'Add at a time on Wednesday 12 March' });
    const free = await column.boundingBox();
    if (!free) throw new Error('Not on the screen.');
    await page.mouse.move(free.x + 60, free.y + 44 * 13 + 2);
    await page.mouse.down();
    await page.mouse.move(free.x + 60, free.y + 44 * 14 + 20, { steps: 5 });
    await expect(page.getByText('Wed 12 Mar 13:00–14:30')).toBeVisible();
    await page.mouse.up();
    await page
      .getByRole('group', { name: /Wednesday 12 March/ })
      .getByRole('button', { name: calendar.title })
      .click();
    await page.keyboard.type('Tide tables');
    await page.keyboard.press('Enter');
    await expect(
      page.getByRole('button', { name: `Tide tables, Wednesday 12 March, 13:00, ${calendar.title}` }),
    ).toBeVisible();
  });
});

test.describe('the list', () => {
  test.beforeEach(async ({ page }) => {
    const make = prepare(page.request);
    await make.event(calendar, 'Rope order', TUESDAY, { facts: { tags: ['rope'], isFree: false, isDraft: true } });
    await make.event(calendar, 'Tar kettle', addDays(TUESDAY, 1));
    await make.event(calendar, 'Bilge watch', addDays(TUESDAY, 2), {
      rule: { frequency: 'weekly', interval: 1, days: ['thursday'], count: 3, until: null },
    });
    await open(page, 'list', '&days=21');
    await page.getByLabel('any calendar').selectOption(calendar.title);
  });

  test('changes many at once with one way back, moves and lengthens a row by keys, and copies to another calendar', async ({
    page,
  }) => {
    const other = await prepare(page.request).calendar(fresh('Beside'));
    await page.reload();
    await page.getByLabel('any calendar').selectOption(calendar.title);
    await page.getByLabel('Choose Tar kettle, Wednesday 12 March').check();
    await page.getByLabel('Choose Bilge watch, Thursday 13 March').check();
    const bulk = page.getByRole('group', { name: 'Change what is chosen' });
    await bulk.getByLabel('Days later').fill('1');
    await bulk.getByRole('button', { name: 'Do it for 2 dates' }).click();
    await expect(page.getByLabel('Choose Tar kettle, Thursday 13 March')).toBeVisible();
    await expect(page.getByLabel('Choose Bilge watch, Friday 14 March')).toBeVisible();
    await expect(page.getByLabel('Choose Bilge watch, Thursday 20 March')).toBeVisible();
    await page.getByRole('button', { name: 'Undo' }).click();
    await expect(page.getByLabel('Choose Tar kettle, Wednesday 12 March')).toBeVisible();
    await expect(page.getByLabel('Choose Bilge watch, Thursday 13 March')).toBeVisible();

    await page.getByLabel('Choose all').check();
    await bulk.getByLabel('What to do').selectOption('add tags');
    await bulk.getByLabel('add tags').fill('spring');
    await bulk.getByRole('button', { name: 'Do it for 5 dates' }).click();
    await page.getByLabel('any tag').selectOption('#spring');
    await expect(page.getByText('5 dates', { exact: true })).toBeVisible();
    await page.getByLabel('Choose all').uncheck();

    await page.getByRole('button', { name: 'Tar kettle' }).focus();
    await page.keyboard.press('Alt+ArrowDown');
    await expect(page.getByLabel('Choose Tar kettle, Thursday 13 March')).toBeVisible();
    await page.keyboard.press('Alt+Shift+ArrowDown');
    await expect(page.getByRole('row').filter({ hasText: 'Tar kettle' })).toContainText('19:45');

    await page.getByLabel('Choose Tar kettle').check();
    await page.getByLabel('Choose Bilge watch, Thursday 13 March').check();
    await bulk.getByLabel('What to do').selectOption('copy all of them to a calendar');
    await bulk.getByLabel('which calendar').selectOption(other.title);
    await bulk.getByRole('button', { name: 'Do it for 2 dates' }).click();
    await page.getByLabel('any calendar').selectOption(other.title);
    await expect(page.getByLabel('Choose Tar kettle, Thursday 13 March')).toBeVisible();
    await expect(page.getByLabel('Choose Bilge watch, Thursday 20 March')).toBeVisible();
    await page.getByLabel('How many days').selectOption('a year');
    await expect(page.getByText('4 dates', { exact: true })).toBeVisible();
  });

  test('changes for a teacher what is theirs, and names the rest', async ({ page }) => {
    const word = fresh('Mixed');
    await prepare(page.request).event(calendar, `${word} of others`, TUESDAY);
    await signIn(page, 'tomas.reed@lanternfell.example');
    const make = prepare(page.request);
    await make.event(await make.calendar(fresh('Tomas')), `${word} of mine`, TUESDAY);
    await open(page, 'list', '&days=21');
    await page.getByLabel('Words in it').fill(word);
    await expect(page.getByText('2 dates', { exact: true })).toBeVisible();
    await page.getByLabel('Choose all').check();
    const bulk = page.getByRole('group', { name: 'Change what is chosen' });
    await bulk.getByLabel('What to do').selectOption('add tags');
    await bulk.getByLabel('add tags').fill('shared');
    await bulk.getByRole('button', { name: 'Do it for 2 dates' }).click();
    await expect(bulk.getByRole('alert')).toContainText(`“${word} of others”`);
    await expect(page.getByRole('row').filter({ hasText: `${word} of mine` })).toContainText('#shared');
    await expect(page.getByRole('row').filter({ hasText: `${word} of others` })).not.toContainText('#shared');
    // What was left stays chosen.
    await expect(bulk.getByText('1 chosen')).toBeVisible();
  });
});

test.describe('lanes', () => {
  test('are folded, hidden and moved; a link shows the same, and they stay so', async ({ page }) => {
    await prepare(page.request).event(calendar, 'Knots', TUESDAY);
    // How a person has the board is kept with them: Marit's is everybody's in these tests.
    await openPlan(page, `?form=lanes&from=${MONDAY}`, 'owen.tarbell@lanternfell.example');
    const lane = page.getByRole('group', { name: calendar.title, exact: true });
    const menu = lane.getByRole('button', { name: `${calendar.title}: fold, hide, move` });
    await menu.click();
    await page.getByRole('button', { name: 'Fold', exact: true }).click();
    await expect(lane.getByText('1 event')).toBeVisible();
    await expect(lane.getByRole('button', { name: /^Knots/ })).toHaveCount(0);
    const link = page.url();
    await menu.click();
    await page.getByRole('button', { name: 'Hide', exact: true }).click();
    await expect(lane).toHaveCount(0);
    await page.goto('/plan?form=lanes');
    await expect(page.getByRole('button', { name: `Show ${calendar.title}` })).toBeVisible();
    await page.goto(link);
    await expect(lane.getByText('1 event')).toBeVisible();
    await menu.click();
    await page.getByRole('button', { name: 'Unfold' }).click();
    await expect(lane.getByRole('button', { name: /^Knots/ })).toBeVisible();
  });
});

test('an event in full: sorted, linked, in another calendar, and only the team sees the draft', async ({ page }) => {
  const other = await prepare(page.request).calendar(fresh('Forms elsewhere'));
  await prepare(page.request).event(calendar, 'Open evening', TUESDAY);
  await openPlan(page, `?form=lanes&from=${MONDAY}`);
  await page
    .getByRole('group', { name: calendar.title, exact: true })
    .getByRole('button', { name: /^Open evening/ })
    .click();
  const sheet = page.getByRole('complementary', { name: 'Open evening' });
  await sheet.getByLabel('A line under the title').fill('Tea in the sail loft');
  await sheet.getByLabel('Category').selectOption('Evening for families');
  await sheet.getByLabel('Tags').fill('tea, boats,');
  await sheet.getByLabel('put into another calendar').selectOption(other.title);
  await sheet.getByRole('button', { name: 'Add a link' }).click();
  await sheet.getByLabel('Address').fill('not an address');
  await sheet.getByLabel('draft: only the team sees it').check();
  await sheet.getByLabel('Place').fill('sail loft');
  await expect(sheet.getByText('holds 40')).toBeVisible();
  await sheet.getByRole('button', { name: 'Save' }).click();
  await expect(sheet.getByText(/is no address/)).toBeVisible();
  await sheet.getByLabel('Address').fill('lanternfell.example/tea');
  await sheet.getByRole('button', { name: 'Save' }).click();
  const placed = page
    .getByRole('group', { name: other.title, exact: true })
    .getByRole('button', { name: /^Open evening.*draft/ });
  await expect(placed).toBeVisible();
  await expect(sheet.getByLabel('Address')).toHaveValue('https://lanternfell.example/tea');
  await expect(sheet.getByRole('button', { name: 'Remove the tag boats' })).toBeVisible();
});

test('a line names its category, tags and another calendar, and each part leads to its words', async ({ page }) => {
  await openPlan(page, `?form=lanes&from=${MONDAY}`);
  const lane = page.getByRole('group', { name: calendar.title, exact: true });
  await lane.getByRole('button', { name: /on Tuesday 11 March/ }).click();
  await page.keyboard.type('Knots thu 9-10 !test #rope @Loft 2');
  const reading = page.getByRole('list', { name: 'Understood as' });
  await expect(reading).toContainText('Thu 13 Mar, 9:00–10:00');
  await expect(reading).toContainText('Test');
  await reading.getByRole('button', { name: '#rope' }).click();
  await page.keyboard.type('#twine');
  await expect(reading).toContainText('#twine');
  await page.keyboard.press('Enter');
  await expect(lane.getByRole('button', { name: /^Knots, Thursday 13 March, 9:00, Loft 2/ })).toBeVisible();
});

test('the school’s places are kept, and two entries of one name are not', async ({ page }) => {
  await page.goto('/lists');
  const name = fresh('Crow’s nest');
  await page.getByRole('button', { name: 'Add a place' }).click();
  const row = page.getByRole('row').filter({ has: page.getByLabel('Name') });
  const last = page.getByRole('table').first().getByRole('row').last();
  await last.getByLabel('Name').fill('Loft 1');
  await page.getByRole('button', { name: 'Save the lists' }).click();
  await expect(last).toContainText('is in the list twice');
  await last.getByLabel('Name').fill(name);
  await last.getByLabel('Holds').fill('2');
  await page.getByRole('button', { name: 'Save the lists' }).click();
  await expect(page.getByText('The lists are saved.')).toBeVisible();
  await page.reload();
  await expect(page.getByRole('table').first().getByRole('row').last().getByLabel('Name')).toHaveValue(name);
  expect(await row.count()).toBeGreaterThan(5);
});

test('an event is found by its words, typing errors forgiven, and the board jumps to it', async ({ page }) => {
  const title = fresh('Cormorant survey');
  await prepare(page.request).event(calendar, title, TUESDAY);
  await openPlan(page);
  await page.getByRole('combobox', { name: 'Find an event' }).fill(title.replace('Cormorant', 'Cormroant'));
  const hit = page.getByRole('option').first();
  await expect(hit).toContainText(title);
  await page.getByRole('combobox', { name: 'Find an event' }).press('Enter');
  await expect(page.getByRole('complementary', { name: title })).toBeVisible();
  await expect(page.getByRole('heading', { name: '10 – 16 March 2031' })).toBeVisible();
});

test('a pasted list becomes events after it was looked through, with one way back; a pasted table leads to its columns', async ({
  page,
}) => {
  await openPlan(page, `?form=lanes&from=${MONDAY}`);
  const lane = page.getByRole('group', { name: calendar.title, exact: true });
  await lane.getByRole('button', { name: /on Tuesday 11 March/ }).click();
  await page.getByRole('textbox', { name: `New event in ${calendar.title}` }).evaluate((field) => {
    const data = new DataTransfer();
    data.setData('text/plain', 'Keel talk\t12 mar\t9-10\r\nMast day 13 mar @Loft 2\n14 mar 10:00\n');
    field.dispatchEvent(new ClipboardEvent('paste', { clipboardData: data, bubbles: true, cancelable: true }));
  });
  const sheet = page.getByRole('complementary', { name: 'Lines to add' });
  await expect(sheet.getByText('Keel talk · Wed 12 Mar, 9:00')).toBeVisible();
  await expect(sheet.getByText('no title yet')).toBeVisible();
  await sheet.getByRole('button', { name: 'Add 2 events' }).click();
  await expect(lane.getByRole('button', { name: /^Keel talk, Wednesday 12 March, 9:00/ })).toBeVisible();
  await expect(lane.getByRole('button', { name: /^Mast day, Thursday 13 March, all day, Loft 2/ })).toBeVisible();
  // The line that was not understood stays to be mended.
  await sheet.getByLabel('Line 1').fill('Bolt check 14 mar 10:00');
  await sheet.getByRole('button', { name: 'Add 1 event' }).click();
  await expect(lane.getByRole('button', { name: /^Bolt check, Friday 14 March, 10:00/ })).toBeVisible();
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(lane.getByRole('button', { name: /^Bolt check/ })).toHaveCount(0);
  await page.keyboard.press('Control+z');
  await expect(lane.getByRole('button', { name: /^Keel talk/ })).toHaveCount(0);

  await page
    .getByRole('group', { name: calendar.title, exact: true })
    .getByRole('button', { name: `Add to ${calendar.title} on Tuesday 11 March` })
    .click();
  await page.getByRole('textbox', { name: /^New event in/ }).evaluate((field) => {
    const data = new DataTransfer();
    data.setData('text/plain', 'Date\tTime\tTitle\tRoom\n12 March\t9-10\tKnot test\tLoft 2\n13/03/2031\t\tOpen loft\t');
    field.dispatchEvent(new ClipboardEvent('paste', { clipboardData: data, bubbles: true, cancelable: true }));
  });
  await page.getByRole('button', { name: 'Bring it in by its columns' }).click();
  await expect(page).toHaveURL(/elsewhere\?file=/);
  await expect(page.getByRole('row').filter({ hasText: 'Knot test' })).toContainText('Loft 2');
  // It is meant for the calendar it was pasted on.
  await expect(page.getByRole('row').filter({ hasText: 'Open loft' })).toContainText(calendar.title);
});
