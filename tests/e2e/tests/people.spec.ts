import { expect, type Page } from '@playwright/test';
import { site } from '../playwright.config';
import { fresh, invitedPerson, openPlan, prepare, signIn, type Made, test } from '../support/valtro';

const TOMAS = 'tomas.reed@lanternfell.example';
// A week of no school year.
const WEEK = '?form=lanes&from=2033-03-07';

const lane = (page: Page, calendar: Made) => page.getByRole('group', { name: calendar.title, exact: true });

test('somebody is invited, comes in by the mail, is shared with, and edits', async ({ page, browser }) => {
  const name = fresh('Nora Fenn');
  await signIn(page);
  const calendar = await prepare(page.request).calendar(fresh('Invited'));
  await page.goto('/people');
  await page.getByLabel('E-mail address').fill('nobody');
  await page.getByRole('button', { name: 'Send an invitation' }).click();
  await expect(page.getByText('This is no e-mail address.')).toBeVisible();
  const nora = await invitedPerson(page, browser, name);

  // Until she is shared with, she reads only.
  await nora.goto(`/plan${WEEK}`);
  await expect(lane(nora, calendar)).toBeVisible();
  await lane(nora, calendar).scrollIntoViewIfNeeded();
  await lane(nora, calendar)
    .getByRole('button', { name: /on Tuesday 8 March/ })
    .click({ force: true });
  await expect(nora.getByRole('textbox', { name: /New event in/ })).toHaveCount(0);

  await openPlan(page, WEEK);
  await lane(page, calendar).getByRole('button', { name: calendar.title, exact: false }).first().click();
  await page.getByLabel('share with somebody').selectOption(name);
  await expect(page.getByLabel(`Role of ${name}`)).toHaveValue('editor');
  // Her screen follows by itself.
  await expect(async () => {
    await lane(nora, calendar)
      .getByRole('button', { name: /on Tuesday 8 March/ })
      .click({ force: true });
    await expect(nora.getByRole('textbox', { name: /New event in/ })).toBeVisible({ timeout: 2000 });
  }).toPass();
  await nora.keyboard.type('Rope walk 9-10');
  await nora.keyboard.press('Enter');
  await expect(lane(nora, calendar).getByRole('button', { name: /^Rope walk, Tuesday/ })).toBeVisible();
  await expect(lane(page, calendar).getByRole('button', { name: /^Rope walk, Tuesday/ })).toBeVisible();
  await nora.context().close();
});

test('a member reads what the reach gives: in full, as headlines, as times only', async ({ page, browser }) => {
  await signIn(page);
  const calendar = await prepare(page.request).calendar(fresh('Reach'));
  await prepare(page.request).event(calendar, 'Hull talk', '2033-03-08');
  const other = await browser.newContext();
  const tomas = await other.newPage();
  await openPlan(tomas, WEEK, TOMAS);
  await lane(tomas, calendar)
    .getByRole('button', { name: /^Hull talk/ })
    .click();
  const sheet = tomas.getByRole('complementary', { name: 'Hull talk' });
  await expect(sheet.getByText('Bring a rope.')).toBeVisible();
  await expect(sheet.getByText(/You read this event/)).toBeVisible();
  await expect(sheet.getByRole('textbox')).toHaveCount(0);

  const reach = async (members: string, version: number) =>
    (
      await page.request.put(`/api/calendars/${calendar.id}/reach`, {
        data: { members, linkHolders: 'nothing', everyone: 'nothing', version },
      })
    ).ok();
  expect(await reach('timesOnly', calendar.version)).toBe(true);
  const taken = lane(tomas, calendar).getByRole('button', { name: /^Taken, Tuesday 8 March/ });
  await expect(taken).toBeVisible();
  await expect(tomas.getByText('Hull talk')).toHaveCount(0);
  await taken.click();
  await expect(tomas.getByText('Members of the school get the times only.')).toBeVisible();
  expect(await reach('nothing', calendar.version + 1)).toBe(true);
  await expect(lane(tomas, calendar)).toHaveCount(0);
  await other.close();
});

test('a forgotten password is set anew by mail', async ({ page }) => {
  await page.goto('/');
  await page.getByLabel('E-mail').first().fill('samir.dole@lanternfell.example');
  await page.getByRole('button', { name: 'Forgotten the password?' }).click();
  await page.getByRole('button', { name: 'Send me a link' }).click();
  await expect(page.getByText('a mail is on its way')).toBeVisible();
  await expect
    .poll(async () => {
      await page.goto(`${site}/mail`);
      return page.getByText('to samir.dole@lanternfell.example').count();
    })
    .toBe(1);
  await page
    .getByRole('article')
    .filter({ hasText: 'samir.dole' })
    .getByRole('link', { name: /\/new-password#/ })
    .click();
  await page.getByLabel('New password').fill('lanterns by daylight');
  await page.getByRole('button', { name: 'Set the password' }).click();
  await page.getByLabel('E-mail').first().fill('samir.dole@lanternfell.example');
  await page.getByLabel('Password', { exact: true }).fill('lanterns by daylight');
  await page.getByRole('button', { name: 'Sign in' }).click();
  await expect(page.getByRole('button', { name: /Samir Dole/ })).toBeVisible();
});

test('groups are kept, and a calendar is shared with one', async ({ page }) => {
  await signIn(page);
  const calendar = await prepare(page.request).calendar(fresh('Grouped'));
  const name = fresh('Riggers');
  await page.goto('/people');
  await page.getByLabel('Name of a new group').fill(name);
  await page.getByRole('button', { name: 'Add a group' }).click();
  await page.getByText(name).click();
  await page
    .getByRole('group', { name: `Who is in ${name}` })
    .getByLabel('Bea Lindqvist')
    .click();
  await expect(page.getByRole('group').filter({ hasText: name }).getByText('Bea Lindqvist').first()).toBeVisible();
  await openPlan(page, WEEK);
  await lane(page, calendar).getByRole('button', { name: calendar.title, exact: false }).first().click();
  await page.getByLabel('share with somebody').selectOption(name);
  await page.getByLabel(`Role of ${name}`).selectOption('proposer');
  await page.getByLabel('Role of Marit Quill').selectOption('no role');
  await expect(page.getByText('Somebody has to keep the calendar.')).toBeVisible();
});

test('the keeper looks at the board through other eyes, and back', async ({ page }) => {
  await signIn(page);
  const calendar = await prepare(page.request).calendar(fresh('Looked at'));
  await prepare(page.request).event(calendar, 'Open hull', '2033-03-08');
  await prepare(page.request).event(calendar, 'Quiet hull', '2033-03-09', {
    facts: { reach: { members: 'timesOnly', linkHolders: 'nothing', everyone: 'nothing' } },
  });
  await openPlan(page, WEEK);
  await page.getByRole('button', { name: 'Marit Quill' }).click();
  await page.getByRole('link', { name: 'members of the school' }).click();
  await expect(page.getByText('You look as members of the school would.')).toBeVisible();
  await page.goto(`/plan${WEEK}&look=members`);
  await lane(page, calendar).scrollIntoViewIfNeeded();
  await expect(lane(page, calendar).getByRole('button', { name: /^Open hull/ })).toBeVisible();
  await expect(lane(page, calendar).getByRole('button', { name: /^Taken, Wednesday 9 March/ })).toBeVisible();
  await expect(page.getByText('Quiet hull')).toHaveCount(0);
  await page.goto(`/plan${WEEK}&look=everyone`);
  await expect(page.getByRole('group', { name: 'School diary', exact: true })).toBeVisible();
  await expect(lane(page, calendar)).toHaveCount(0);
  await page.getByRole('button', { name: 'Look with my own eyes' }).click();
  await lane(page, calendar).scrollIntoViewIfNeeded();
  await expect(lane(page, calendar).getByRole('button', { name: /^Quiet hull/ })).toBeVisible();
});

test('who sees what is read for the whole school, sorted, and taken along', async ({ page }) => {
  await signIn(page);
  await page.goto('/who-sees');
  const rows = page.getByRole('table').getByRole('row');
  await expect(rows.nth(1)).toContainText('everything');
  await page.getByRole('button', { name: 'Events' }).click();
  await expect(page.getByRole('columnheader', { name: 'Events' })).toHaveAttribute('aria-sort', 'ascending');
  await expect(page.getByRole('row', { name: /^Staff/ })).toContainText('Samir Dole (reader)');
  const [download] = await Promise.all([
    page.waitForEvent('download'),
    page.getByRole('link', { name: 'Take along as a table' }).click(),
  ]);
  expect(download.suggestedFilename()).toBe('Lanternfell who sees what.csv');
});
