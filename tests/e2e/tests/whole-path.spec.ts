import { expect } from '@playwright/test';
import { site } from '../playwright.config';
import { addDays, fresh, openPlan, prepare, test } from '../support/valtro';

test('from an event typed in to a visitor of the school’s website reading it', async ({ page, context }) => {
  const name = fresh('Rope club');
  const key = name.toLowerCase().replaceAll(' ', '-');
  await openPlan(page);
  const today = await prepare(page.request).today();
  const open = await prepare(page.request).openDayAfter(today);
  const from = addDays(open, -1);
  const day = new Intl.DateTimeFormat('en-GB', { weekday: 'long', day: 'numeric', month: 'long', timeZone: 'UTC' })
    .format(new Date(`${open}T00:00:00Z`))
    .replace(',', '');
  await page.goto(`/plan?form=lanes&from=${from}&days=7`);

  // A calendar.
  await page.getByRole('button', { name: '+ add' }).click();
  await page.getByLabel('Name of the calendar').fill(name);
  await page.getByRole('button', { name: 'Add calendar' }).click();
  await expect(page.getByRole('status')).toContainText(`The calendar “${name}” is there.`);
  const lane = page.getByRole('group', { name, exact: true });
  await expect(lane.getByText('members only')).toBeVisible();

  // A one-time event, typed on a day.
  await lane.getByRole('button', { name: `Add to ${name} on ${day}` }).click();
  await page.getByRole('textbox', { name: `New event in ${name}` }).fill('Splice night 18:00-19:30 @Sail loft');
  await expect(page.getByRole('list', { name: 'Understood as' })).toContainText('Sail loft');
  await page.keyboard.press('Enter');
  await expect(lane.getByRole('button', { name: /^Splice night, .* 18:00, Sail loft/ })).toBeVisible();

  // A weekly one, beside it: a cell with something in it keeps a corner to click.
  const cell = lane.getByRole('button', { name: `Add to ${name} on ${day}` });
  const box = await cell.boundingBox();
  await cell.click({ position: { x: (box?.width ?? 0) - 10, y: (box?.height ?? 0) - 10 } });
  await page
    .getByRole('textbox', { name: `New event in ${name}` })
    .fill(`Knots 9-10 every ${day.slice(0, 3).toLowerCase()} 5 times`);
  await expect(page.getByRole('list', { name: 'Understood as' })).toContainText('5 dates');
  await page.keyboard.press('Enter');
  await expect(lane.getByRole('button', { name: /^Knots, / })).toBeVisible();

  // Opened to everyone, after being told what that means.
  await lane.getByRole('button', { name, exact: false }).filter({ hasText: 'members only' }).click();
  const sheet = page.getByRole('complementary', { name });
  await sheet.getByLabel('What Everyone get of the calendar').selectOption('everything');
  await expect(sheet.getByRole('alert')).toContainText(
    `Anyone on the internet can then read “${name}”: 2 events, from`,
  );
  await sheet.getByRole('button', { name: 'Open it' }).click();
  await expect(lane.getByText('everyone reads all')).toBeVisible();

  // Published.
  await page.getByRole('link', { name: 'Publish' }).click();
  await page.getByLabel('Publication', { exact: true }).selectOption({ label: 'New publication' });
  await page.getByLabel('Title of the publication').fill(`Ropes of ${name}`);
  await page.getByLabel('Name in the link').fill(key);
  await page.getByRole('checkbox', { name }).check();
  await page.getByRole('button', { name: 'Publish', exact: true }).click();
  await expect(page.getByLabel('Address of the feed')).toHaveValue(new RegExp(`/p/${key}/feed.ics$`));
  await expect(page.getByLabel('Link that opens a calendar program')).toHaveValue(/^webcal:/);
  await expect(page.getByLabel('Code for a website')).toHaveValue(new RegExp(`<iframe src="[^"]*/p/${key}/embed"`));
  await expect(page.getByRole('status').filter({ hasText: 'go out' })).toContainText('2 events go out');
  await expect(
    page
      .frameLocator('iframe')
      .getByRole('button', { name: /Splice night/ })
      .first(),
  ).toBeVisible();

  await context.grantPermissions(['clipboard-read', 'clipboard-write']);
  await page.getByRole('button', { name: 'Copy feed' }).click();
  const feed = await page.evaluate(() => navigator.clipboard.readText());
  expect(await (await page.request.get(feed)).text()).toContain('SUMMARY:Splice night');

  // Read in the school's website, which is another origin.
  const visitor = await context.newPage();
  await visitor.goto(`${site}/calendar?key=${key}`);
  const embed = visitor.frameLocator('iframe');
  await embed.getByRole('button', { name: 'List' }).click();
  await expect(embed.getByText('Splice night')).toBeVisible();
  await expect(embed.getByText('Times in Halifax')).toBeVisible();

  // A change is there after a reload.
  await page.goto(`/plan?form=lanes&from=${from}&days=7`);
  await lane.scrollIntoViewIfNeeded();
  await lane.getByRole('button', { name: /^Splice night/ }).click();
  await page.getByLabel('Title', { exact: true }).fill('Long splice night');
  await page.getByRole('button', { name: 'Save' }).click();
  await expect(page.getByRole('status')).toContainText('“Long splice night” is changed.');
  await visitor.reload();
  await embed.getByRole('button', { name: 'List' }).click();
  await expect(embed.getByText('Long splice night')).toBeVisible();

  // Closed again: nothing of it is left outside.
  await lane.getByRole('button').filter({ hasText: 'everyone reads all' }).click();
  await sheet.getByLabel('What Link holders get of the calendar').selectOption('nothing');
  await expect(lane.getByText('members only')).toBeVisible();
  await visitor.reload();
  await embed.getByRole('button', { name: 'List' }).click();
  await expect(embed.getByText('Nothing is on in this time.')).toBeVisible();
});

test('the school’s home page shows what comes up in its side column', async ({ page }) => {
  await page.goto(`${site}/`);
  const embed = page.frameLocator('iframe[title="Coming up at Lanternfell"]');
  await expect(embed.getByRole('heading', { name: 'Coming up' })).toBeVisible();
  await expect(embed.getByRole('listitem').first()).toBeVisible();
  await expect(embed.getByRole('link', { name: 'Subscribe' })).toHaveAttribute(
    'href',
    /^webcal:.*\/p\/lanternfell\/feed.ics$/,
  );
});
