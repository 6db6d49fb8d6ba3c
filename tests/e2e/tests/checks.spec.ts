import { expect } from '@playwright/test';
import { addDays, fresh, openPlan, prepare, signIn, test } from '../support/valtro';

test('a place taken twice is told while typing and in the sheet, found on the page of checks, and accepted', async ({
  page,
}) => {
  await signIn(page);
  const make = prepare(page.request);
  const calendar = await make.calendar(fresh('Checks'));
  const place = fresh('Tar house');
  const day = addDays(await make.today(), 30);
  await make.event(calendar, 'Sail repair', day, { place });
  await openPlan(page, `?form=lanes&from=${day}&days=3`);
  const lane = page.getByRole('group', { name: calendar.title, exact: true });
  await lane
    .getByRole('button', { name: /^Add to/ })
    .first()
    .focus();
  await page.keyboard.press('Enter');
  await page.keyboard.type(`Splicing 18:30-19 @${place}`);
  const clash = page.getByRole('list', { name: 'What it clashes with' });
  await expect(clash).toContainText(`${place} is taken by Sail repair (${calendar.title})`);
  await page.keyboard.press('Enter');

  // The field gives its room back before the entry below it is clicked.
  await expect(page.getByRole('textbox', { name: /^New event in/ })).toHaveCount(0);
  await lane.getByRole('button', { name: /^Splicing/ }).click();
  const sheet = page.getByRole('complementary', { name: 'Splicing' });
  await expect(sheet.getByRole('list', { name: 'What it clashes with' })).toContainText('is taken by Sail repair');
  await sheet.getByLabel('Place').fill('Quay');
  await expect(sheet.getByText(/is taken by Sail repair/)).toHaveCount(0);
  await sheet.getByRole('button', { name: 'Put back' }).click();

  await page.getByRole('link', { name: /^Checks/ }).click();
  const row = page.getByRole('listitem').filter({ hasText: place });
  await expect(row).toContainText(`Sail repair (${calendar.title}) and Splicing (${calendar.title})`);
  await row.getByRole('button', { name: /^Accept:/ }).click();
  await row.getByRole('button', { name: 'Accept', exact: true }).click();
  await expect(row.getByRole('alert')).toContainText('Say in a few words');
  await row.getByLabel('Why it is all right').fill('They share the house');
  await row.getByRole('button', { name: 'Accept', exact: true }).click();
  await expect(page.getByText('It is accepted.')).toBeVisible();
  await page.getByText(/^\d+ accepted$/).click();
  await expect(row).toContainText('accepted by Marit Quill: They share the house');
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(row.getByRole('button', { name: /^Accept:/ })).toBeVisible();
});
