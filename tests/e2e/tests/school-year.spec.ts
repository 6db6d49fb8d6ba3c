import { expect, type Page } from '@playwright/test';
import { fresh, openPlan, prepare, signIn, test } from '../support/valtro';

/** A school year of a test's own, far from the others. */
const openYear = async (page: Page, first: number) => {
  await signIn(page);
  const answer = await page.request.post('/api/school-years', {
    data: {
      first: `${first}-08-01`,
      last: `${first + 1}-07-31`,
      terms: [{ name: 'Autumn term', first: `${first}-09-01`, last: `${first}-12-18` }],
      closures: [],
      week: ['monday', 'tuesday', 'wednesday', 'thursday', 'friday'],
      cycleLength: 6,
      cycleRestarts: false,
      pins: [],
      weekLetters: ['A', 'B'],
      lettersRestart: false,
      version: null,
    },
  });
  expect(answer.ok(), await answer.text()).toBe(true);
  const { year } = (await answer.json()) as { year: { id: string } };
  await page.goto(`/school-year?year=${year.id}`);
  await expect(page.getByRole('button', { name: `${first}–${first + 1}`, exact: true })).toHaveAttribute(
    'aria-pressed',
    'true',
  );
  return year.id;
};

test('a closure typed as a line takes a date from a class that leaves closures out, told before it is saved', async ({
  page,
}) => {
  await openYear(page, 2036);
  const calendar = await prepare(page.request).calendar(fresh('Class'));
  await prepare(page.request).event(calendar, 'Splicing', '2036-09-02', {
    rule: { frequency: 'weekly', interval: 1, days: ['tuesday'], count: null, until: null },
    follows: { days: 'inTerm', closures: 'leaveOut' },
  });
  await page.getByLabel('Add to Closures').fill('Gale 15–17 sept');
  await expect(page.getByText('Gale · 15 – 17 September 2036')).toBeVisible();
  await page.getByLabel('Add to Closures').press('Enter');
  const plan = page.getByRole('region', { name: 'What this does' });
  await expect(plan).toContainText('Splicing');
  await expect(plan).toContainText('Tue 16 Sept');
  await expect(page.getByRole('button', { name: /^Tuesday 16 September: Gale/ })).toBeVisible();
  await page.getByRole('button', { name: 'Save the year' }).click();
  await expect(page.getByText(/The school year 2036–2037 is saved; 1 series has other dates/)).toBeVisible();

  const board = '?form=lanes&from=2036-09-15&days=7';
  await openPlan(page, board);
  const lane = page.getByRole('group', { name: calendar.title, exact: true });
  await expect(lane.getByRole('button', { name: /^Add to/ }).first()).toBeVisible();
  await expect(lane.getByRole('button', { name: /^Splicing/ })).toHaveCount(0);
  await expect(page.locator('.day-head').filter({ hasText: 'Tue 16' })).toContainText('Gale');
});

test('a closure is drawn by mouse for some calendars only, and undone', async ({ page }) => {
  await openYear(page, 2038);
  const from = await page.getByRole('button', { name: /^Monday 6 September/ }).boundingBox();
  const to = await page.getByRole('button', { name: /^Wednesday 8 September/ }).boundingBox();
  if (!from || !to) throw new Error('Not on the screen.');
  await page.mouse.move(from.x + 8, from.y + 8);
  await page.mouse.down();
  await page.mouse.move(to.x + 8, to.y + 8, { steps: 4 });
  await page.mouse.up();
  const chosen = page.getByRole('form', { name: 'Chosen days' });
  await expect(chosen.getByRole('heading', { name: '6 – 8 September 2038' })).toBeVisible();
  await chosen.getByLabel('What it is called').fill('Hull camp');
  await chosen.getByText('for the whole school').first().click();
  await chosen.getByLabel('Boatbuilding 2').check();
  await chosen.getByRole('button', { name: 'Add closure' }).click();
  await page.getByRole('button', { name: 'Save the year' }).click();
  await expect(page.getByRole('listitem', { name: 'Hull camp' })).toContainText('for Boatbuilding 2 only');
  // The rotation goes on: the school is open.
  await expect(page.getByRole('button', { name: /^Tuesday 7 September: Hull camp, Day 5/ })).toBeVisible();
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(page.getByRole('listitem', { name: 'Hull camp' })).toHaveCount(0);
});

test('days are chosen by keys, a day is given another place in the rotation, and what cannot be is told at its part', async ({
  page,
}) => {
  await openYear(page, 2040);
  await page.getByRole('button', { name: /^Wednesday 1 August/ }).focus();
  for (let i = 0; i < 5; i++) await page.keyboard.press('ArrowDown');
  await page.keyboard.press('Enter');
  const chosen = page.getByRole('form', { name: 'Chosen days' });
  await expect(chosen.getByRole('heading', { name: 'Wednesday 5 September' })).toBeVisible();
  await chosen.getByLabel('In the rotation').selectOption('Day 6');
  await expect(page.getByRole('button', { name: /^Wednesday 5 September: Day 6, set by hand/ })).toBeVisible();
  await expect(page.getByRole('button', { name: /^Thursday 6 September: Day 1/ })).toBeVisible();
  // What is not saved yet is still there after a reload.
  await page.reload();
  await expect(page.getByRole('button', { name: /^Wednesday 5 September: Day 6, set by hand/ })).toBeVisible();
  await page.getByRole('button', { name: 'Put back' }).click();
  await expect(page.getByRole('button', { name: /^Wednesday 5 September: Day 3/ })).toBeVisible();

  await page.getByLabel('Add to Terms').fill('Second term 1 dec to 20 feb');
  await page.getByLabel('Add to Terms').press('Enter');
  const second = page.getByRole('listitem', { name: 'Second term' });
  await expect(second).toContainText('A day lies in one term.');
  await expect(page.getByRole('button', { name: 'Save the year' })).toBeDisabled();
  await expect(second.getByLabel('Name')).toHaveValue('Second term');
  await page.getByLabel('Add to Terms').fill('Third term, some day');
  await page.getByLabel('Add to Terms').press('Enter');
  await expect(page.getByText(/Type a name and its days/)).toBeVisible();
  await expect(page.getByLabel('Add to Terms')).toHaveValue('Third term, some day');
});

test('a series is set to school days in the sheet', async ({ page }) => {
  await openYear(page, 2044);
  const calendar = await prepare(page.request).calendar(fresh('Rota'));
  await prepare(page.request).event(calendar, 'Quay duty', '2044-09-01');
  await openPlan(page, '?form=lanes&from=2044-08-29&days=7');
  const lane = page.getByRole('group', { name: calendar.title, exact: true });
  await lane.getByRole('button', { name: /^Quay duty/ }).click();
  const sheet = page.getByRole('complementary', { name: 'Quay duty' });
  await sheet.getByRole('button', { name: 'Every school day' }).click();
  await expect(sheet.getByText(/^every school day/)).toBeVisible();
  await sheet.getByRole('button', { name: 'Day 2', exact: true }).click();
  await expect(sheet.getByText(/Day 2/).first()).toBeVisible();
  await sheet.getByRole('button', { name: 'Save', exact: true }).click();
  await expect(lane.getByRole('button', { name: /^Quay duty, Friday 2 September/ })).toBeVisible();
  await expect(lane.getByRole('button', { name: /^Quay duty, Thursday 1 September/ })).toHaveCount(0);
});
