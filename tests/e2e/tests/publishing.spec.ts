import { expect } from '@playwright/test';
import { addDays, fresh, freshKey, prepare, signIn, violations, test } from '../support/valtro';

test('a form is the new publication’s from the moment it is chosen; for who has the link it is narrowed, titled, and its link replaced', async ({
  page,
}) => {
  await signIn(page);
  const here = prepare(page.request);
  const calendar = await here.open(await here.calendar(fresh('Narrowed')));
  const day = await here.today();
  await here.event(calendar, 'Bow', day, { facts: { tags: ['oak'] } });
  await here.event(calendar, 'Mast', day);
  const feed = page.getByLabel('Address of the feed');
  const proof = page.getByRole('status').filter({ hasText: /out/ });

  await page.goto('/publish');
  const choice = page.getByLabel('Publication', { exact: true });
  await expect(choice).not.toHaveValue('new');
  // Nothing is waited for in between: what a quick hand types next goes where it looks.
  const shown = await choice.evaluate((select: HTMLSelectElement) => {
    select.value = 'new';
    select.dispatchEvent(new Event('change', { bubbles: true }));
    return document.querySelector<HTMLInputElement>('[aria-label="Title of the publication"]')?.value;
  });
  expect(shown).toBe('');
  await expect(page).toHaveURL(/\/publish\/new$/);
  await page.getByLabel('Title of the publication').fill(fresh('Boats by link'));
  await page.getByRole('checkbox', { name: calendar.title }).check();
  await page.getByRole('button', { name: 'Whoever has the link' }).click();
  await expect(page.getByText('It gets a link that cannot be guessed')).toBeVisible();
  await page.getByRole('button', { name: 'Publish', exact: true }).click();
  await expect(feed).toHaveValue(/\/p\/[a-z2-9]{22}\/feed.ics$/);
  await expect(proof).toContainText('2 events go out');

  await page.getByText('Only some events or days …').click();
  await page.getByLabel('With one of these tags').fill('oak');
  await page.keyboard.press('Enter');
  await expect(proof).toContainText('1 event goes out');
  await page.getByLabel('Short name').fill('BT');
  await page.keyboard.press('Enter');
  await page.getByLabel('Titles in feeds').fill('{teacher} {title}');
  await page.keyboard.press('Enter');
  await expect(page.getByText('There is no such field.')).toBeVisible();
  await page.getByLabel('Titles in feeds').fill('[{tag}] {title}');
  await page.keyboard.press('Enter');
  await expect(page.getByText('For example: [BT] Knots test')).toBeVisible();
  await expect(page.getByText('Changes wait.')).toBeVisible();
  await page.getByRole('button', { name: 'Publish changes' }).click();
  const first = await feed.inputValue();
  await expect
    .poll(async () => (await (await page.request.get(first)).text()).match(/SUMMARY:.*/g)?.map((line) => line.trim()))
    .toEqual(['SUMMARY:[BT] Bow']);
  // What is out now is in the preview.
  await expect(page.getByText('Changes wait.')).toBeHidden();
  await expect(page.locator('iframe')).toHaveAttribute('src', /^\/p\//);
  await expect(page.frameLocator('iframe').getByText('Bow').first()).toBeVisible();
  expect(await violations(page, ['.questions'])).toEqual([]);

  await page.getByRole('button', { name: 'Replace the link …' }).click();
  await expect(page.getByRole('alert')).toContainText('The old link says at once that it is gone');
  await page.getByRole('button', { name: 'Replace it now' }).click();
  await expect(feed).not.toHaveValue(first);
  expect((await page.request.get(first)).status()).toBe(410);
  expect((await page.request.get(await feed.inputValue())).status()).toBe(200);
});

test('a teacher publishes her class with the diary, and a family reads it on a phone, without scripts too', async ({
  page,
  browser,
}) => {
  await signIn(page, 'bea.lindqvist@lanternfell.example');
  const to = prepare(page.request);
  const calendar = await to.open(await to.calendar(fresh('Her class')));
  await to.event(calendar, 'Knots by night', addDays(await to.today(), 2));
  await page.goto('/publish/new');
  const name = freshKey('families');
  const choice = page.getByRole('region', { name: 'What is in it?' });
  await page.getByLabel('Title of the publication').fill(name);
  await choice.getByRole('checkbox', { name: calendar.title }).check();
  await choice.getByRole('checkbox', { name: 'School diary' }).check();
  // What its readers may not see is apart, with whom to ask.
  await choice.getByText(/calendars that everyone gets nothing of/).click();
  await choice.getByRole('checkbox', { name: 'Boatbuilding 2' }).check();
  await expect(choice.getByText(/may open Boatbuilding 2\. Leave it chosen/)).toBeVisible();
  await page.getByLabel('Name in the link').fill(name);
  await page.getByRole('button', { name: 'Publish', exact: true }).click();
  await expect(page.getByLabel('Address of the feed')).toHaveValue(new RegExp(`/p/${name}/feed.ics$`));
  for (const javaScriptEnabled of [true, false]) {
    const context = await browser.newContext({ viewport: { width: 390, height: 844 }, javaScriptEnabled });
    const family = await context.newPage();
    await expect.poll(async () => (await family.goto(`/p/${name}`))?.status()).toBe(200);
    await expect(family.getByText('Knots by night').locator('visible=true').first()).toBeVisible();
    await family.goto(`/p/${name}?q=knots`);
    await expect(family.getByText('Knots by night').locator('visible=true').first()).toBeVisible();
    await expect(family.getByText('Assembly')).toHaveCount(0);
    await context.close();
  }
});
