import { expect } from '@playwright/test';
import { addDays, fitsTheWidth, fresh, prepare, signIn, test } from '../support/valtro';

test('a visitor reads in a narrow embed, travels, finds how to subscribe, and needs no scripts', async ({
  page,
  browser,
  baseURL,
}) => {
  await signIn(page);
  const to = prepare(page.request);
  const today = await to.today();
  const calendar = await to.open(await to.calendar(fresh('Visitors')));
  await to.event(calendar, 'Quay dance', addDays(today, 2));
  const key = fresh('visit').replaceAll(' ', '-');
  await to.publication(key, calendar);
  await page.context().clearCookies();

  await page.setViewportSize({ width: 320, height: 640 });
  await page.goto(`/p/${key}/embed?view=list`);
  await fitsTheWidth(page);
  await page.getByText('Quay dance').click();
  await expect(page.getByText('Bring a rope.')).toBeVisible();
  const link = page.getByRole('link', { name: 'https://lanternfell.example/ropes' });
  await expect(link).toHaveAttribute('rel', /noopener/);
  await page.getByRole('button', { name: 'Month' }).click();
  await fitsTheWidth(page);
  await expect(page.getByText('Times in Halifax')).toBeVisible();

  await page.setViewportSize({ width: 1280, height: 800 });
  await page.goto(`/p/${key}`);
  const month = page.getByRole('heading', { level: 2 }).first();
  const first = await month.textContent();
  for (let i = 0; i < 3; i++) await page.getByRole('button', { name: 'Later' }).click();
  await expect(month).not.toHaveText(first ?? '');
  await page.getByRole('button', { name: 'Today' }).click();
  await expect(month).toHaveText(first ?? '');

  await page.getByRole('button', { name: 'Subscribe' }).click();
  await expect(page.getByRole('link', { name: 'Open in my calendar program' })).toHaveAttribute(
    'href',
    new RegExp(`^webcal:.*/p/${key}/feed.ics$`),
  );
  await expect(page.getByRole('region', { name: 'Subscribe' }).getByRole('textbox')).toHaveValue(/feed.ics$/);

  const context = await browser.newContext({ javaScriptEnabled: false, baseURL });
  const plain = await context.newPage();
  for (const address of [`/p/${key}`, `/p/${key}/embed`, `/p/${key}/embed?view=upcoming`]) {
    await plain.goto(address);
    await expect(plain.getByText('Quay dance').first()).toBeVisible();
    await expect(plain.getByText(/18:00/).first()).toBeVisible();
  }
  await context.close();
});

test('an address that was never there says what to do, and a publication taken down says so until it is back', async ({
  page,
}) => {
  const answer = await page.goto('/p/no-such-calendar');
  expect(answer?.status()).toBe(404);
  await expect(page.getByRole('heading', { name: 'There is no calendar at this address' })).toBeVisible();

  await signIn(page);
  const to = prepare(page.request);
  const calendar = await to.open(await to.calendar(fresh('Down')));
  const key = fresh('down').replaceAll(' ', '-');
  const publication = await to.publication(key, calendar);
  await page.goto(`/publish/${publication.id}`);
  await page.getByRole('button', { name: 'Take it down' }).click();
  await expect(page.getByText('This publication is taken down. Visitors read that, and nothing else.')).toBeVisible();
  const visitor = await page.context().newPage();
  expect((await visitor.goto(`/p/${key}/embed`))?.status()).toBe(410);
  await expect(visitor.getByRole('heading', { name: 'This calendar has been taken down' })).toBeVisible();

  await page.getByRole('button', { name: 'Put it up again' }).click();
  await expect(page.frameLocator('iframe').getByText('Times in Halifax')).toBeVisible();
  await visitor.reload();
  await expect(visitor.getByText('Times in Halifax')).toBeVisible();
});

test('a calendar its audience cannot read is named with the change that would open it', async ({ page }) => {
  await signIn(page);
  const to = prepare(page.request);
  const calendar = await to.calendar(fresh('Shut'));
  await to.event(calendar, 'Locked evening', addDays(await to.today(), 1));
  const publication = await to.publication(fresh('shut').replaceAll(' ', '-'), calendar);
  await page.goto(`/publish/${publication.id}`);
  await expect(page.getByText(`Everyone gets nothing of ${calendar.title}`)).toBeVisible();
  await expect(page.getByRole('status').filter({ hasText: 'go out' })).toContainText('1 is held back');
  await page.getByRole('button', { name: 'Let everyone read: everything' }).click();
  // What that means is said first.
  await expect(page.getByRole('alert')).toContainText(
    `Anyone on the internet can then read “${calendar.title}”: one event, from`,
  );
  await page.getByRole('button', { name: 'Open it' }).click();
  await expect(page.getByRole('status').filter({ hasText: 'goes out' })).toContainText('Nothing is held back.');
  await expect(page.frameLocator('iframe').getByText('Locked evening').first()).toBeVisible();
});
