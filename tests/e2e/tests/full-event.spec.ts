import { expect, type Page } from '@playwright/test';
import { addDays, fresh, openPlan, prepare, signIn, type Made, test } from '../support/valtro';

// A week of no school year: 9 March 2032 is a Tuesday.
const MONDAY = '2032-03-08';
const TUESDAY = '2032-03-09';
const WINDOW = `?form=lanes&from=${MONDAY}`;

let calendar: Made;

test.beforeEach(async ({ page }) => {
  await signIn(page);
  calendar = await prepare(page.request).calendar(fresh('Full'));
});

const lane = (page: Page) => page.getByRole('group', { name: calendar.title, exact: true });

const openEvent = async (page: Page, title: string, day = TUESDAY, change: object = {}) => {
  await prepare(page.request).event(calendar, title, day, change);
  await openPlan(page, WINDOW);
  await lane(page)
    .getByRole('button', { name: new RegExp(`^${title}`) })
    .click();
  return page.getByRole('complementary', { name: title });
};

const save = async (page: Page, title: string) => {
  await page.getByRole('complementary').getByRole('button', { name: 'Save', exact: true }).click();
  await expect(page.getByText(`“${title}” is changed.`)).toBeVisible();
};

/** What a visitor of a page with this calendar reads of an event in the coming weeks. */
const visit = async (page: Page, key: string) => {
  const visitor = await page.context().browser()?.newContext();
  if (!visitor) throw new Error('No browser.');
  const seen = await visitor.newPage();
  await seen.goto(`${new URL(page.url()).origin}/p/${key}`);
  return seen;
};

test('details are written with marks by keys, pasted markup is cleaned, and visitors read them', async ({ page }) => {
  const today = await prepare(page.request).today();
  const day = addDays(today, 3);
  await prepare(page.request).open(calendar);
  const key = fresh('rich').toLowerCase().replace(' ', '-');
  await prepare(page.request).publication(key, calendar);
  await prepare(page.request).event(calendar, 'Rope day', day, { description: '' });
  await openPlan(page, `?form=lanes&from=${day}`);
  await lane(page)
    .getByRole('button', { name: /^Rope day/ })
    .click();
  const details = page.getByRole('complementary').getByRole('textbox', { name: 'Details' });
  await details.click();
  await page.keyboard.type('Bring ');
  await page.keyboard.press('Control+b');
  await page.keyboard.type('oilskins');
  await page.keyboard.press('Control+b');
  await page.keyboard.press('Enter');
  await details.evaluate((field) => {
    const data = new DataTransfer();
    data.setData(
      'text/html',
      '<script>alert(1)</script><p onclick="alert(2)">See <a href="https://lanternfell.example/kit" style="color:red">the kit list</a> and <a href="javascript:alert(3)">this</a></p>',
    );
    field.dispatchEvent(new ClipboardEvent('paste', { clipboardData: data, bubbles: true, cancelable: true }));
  });
  await save(page, 'Rope day');
  await expect(details.locator('strong')).toHaveText('oilskins');
  await page.reload();
  await expect(details.getByRole('link', { name: 'the kit list' })).toHaveAttribute(
    'href',
    'https://lanternfell.example/kit',
  );

  const seen = await visit(page, key);
  await seen.getByText('Rope day').first().click();
  await expect(seen.getByRole('strong').filter({ hasText: 'oilskins' })).toBeVisible();
  const link = seen.getByRole('link', { name: 'the kit list' });
  await expect(link).toHaveAttribute('target', '_blank');
  await expect(link).toHaveAttribute('rel', /noopener/);
  await expect(seen.getByRole('link', { name: 'this', exact: true })).toHaveCount(0);
  await seen.context().close();
});

test('files are added several at once or dropped, refused with a reason, opened, and replaced under the same link', async ({
  page,
}) => {
  const sheet = await openEvent(page, 'Sea trial');
  const file = (name: string, text: string) => ({ name, mimeType: '', buffer: Buffer.from(text) });
  const picker = page.waitForEvent('filechooser');
  await sheet.getByRole('button', { name: 'Add files' }).click();
  await (
    await picker
  ).setFiles([file('Slip.pdf', '%PDF-1.7 slip'), file('crew.csv', 'name\nInes'), file('run.exe', 'MZ\0\0')]);
  const files = sheet.getByRole('list', { name: 'Files' });
  await expect(files).toContainText('Slip.pdf');
  await expect(files).toContainText('crew.csv');
  await expect(sheet.getByRole('alert')).toContainText('run.exe');
  await expect(sheet.getByRole('alert')).toContainText('none of the files we keep');
  await sheet.getByRole('button', { name: 'dismiss' }).click();
  await sheet.getByRole('button', { name: 'Add files' }).evaluate((button) => {
    const data = new DataTransfer();
    data.items.add(new File(['Tide tables'], 'tides.txt'));
    for (const type of ['dragover', 'drop'])
      button.dispatchEvent(new DragEvent(type, { dataTransfer: data, bubbles: true, cancelable: true }));
  });
  await expect(sheet.getByRole('list', { name: 'Files' })).toContainText('tides.txt');
  await save(page, 'Sea trial');
  const link = files.getByRole('link', { name: 'Slip.pdf' });
  const address = (await link.getAttribute('href')) ?? '';
  const [download] = await Promise.all([page.waitForEvent('download'), link.click()]);
  expect(download.suggestedFilename()).toBe('Slip.pdf');

  const again = page.waitForEvent('filechooser');
  await sheet.getByRole('button', { name: 'Replace Slip.pdf, its link stays' }).click();
  await (await again).setFiles([file('Slip.pdf', '%PDF-1.7 another slip')]);
  await save(page, 'Sea trial');
  await expect(files.getByRole('link', { name: 'Slip.pdf' })).toHaveAttribute('href', address);
  // That the first change was saved may still be told while the second one is being saved.
  await expect.poll(async () => (await page.request.get(address)).text()).toBe('%PDF-1.7 another slip');
  // One step back, and it is the first one again.
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect.poll(async () => (await page.request.get(address)).text()).toBe('%PDF-1.7 slip');
});

test('one date has a file and a category of its own: on its page and in its part of the feed, and nowhere else', async ({
  page,
}) => {
  const day = addDays(await prepare(page.request).today(), 3);
  await prepare(page.request).open(calendar);
  const key = fresh('one').toLowerCase().replace(' ', '-');
  await prepare(page.request).publication(key, calendar);
  const weekday = ['sunday', 'monday', 'tuesday', 'wednesday', 'thursday', 'friday', 'saturday'][
    new Date(`${day}T00:00:00Z`).getUTCDay()
  ];
  await prepare(page.request).event(calendar, 'Splicing', day, {
    description: '',
    rule: { frequency: 'weekly', interval: 1, days: [weekday], count: 3, until: null },
  });
  await openPlan(page, `?form=lanes&from=${addDays(day, 7)}&days=3`);
  await lane(page)
    .getByRole('button', { name: /^Splicing/ })
    .click();
  const sheet = page.getByRole('complementary', { name: 'Splicing' });
  await expect(sheet.getByRole('button', { name: 'This date', exact: true })).toHaveAttribute('aria-pressed', 'true');
  await expect(sheet.getByRole('group', { name: 'Mark' })).toHaveCount(0);
  const picker = page.waitForEvent('filechooser');
  await sheet.getByRole('button', { name: 'Add files' }).click();
  await (await picker).setFiles([{ name: 'Worksheet.pdf', mimeType: '', buffer: Buffer.from('%PDF-1.7 knots') }]);
  await expect(sheet.getByRole('list', { name: 'Files' })).toContainText('Worksheet.pdf');
  await sheet.getByRole('textbox', { name: 'Tags' }).fill('bring it');
  await page.keyboard.press('Enter');
  await sheet.getByRole('button', { name: 'Save this date' }).click();
  await expect(page.getByText('“Splicing” is changed.')).toBeVisible();
  await expect(sheet.getByRole('region', { name: 'Changed by hand' })).toContainText('#bring it, Worksheet.pdf');
  // The series has none of it.
  await sheet.getByRole('button', { name: 'Every date' }).click();
  await expect(sheet.getByRole('list', { name: 'Files' })).toHaveCount(0);

  const visitor = await visit(page, key);
  await visitor.getByRole('link', { name: 'Splicing' }).or(visitor.getByText('Splicing')).first().click();
  const feed = await (await visitor.request.get(`/p/${key}/feed.ics`)).text();
  const parts = feed.replaceAll('\r\n ', '').split('BEGIN:VEVENT').slice(1);
  expect(
    parts.map((part) => [part.includes('RECURRENCE-ID'), part.includes('Worksheet.pdf'), part.includes('bring it')]),
  ).toEqual([
    [false, false, false],
    [true, true, true],
  ]);
  // The link in the feed gives the file to whoever has the feed.
  const link = /ATTACH[^:]*:(\S+)/.exec(parts[1] ?? '')?.[1] ?? '';
  expect(await (await visitor.request.get(new URL(link).pathname)).text()).toBe('%PDF-1.7 knots');
  await visitor.goto(`${new URL(page.url()).origin}/p/${key}?view=list&date=${addDays(day, 7)}`);
  await visitor.getByText('Splicing').first().click();
  await expect(visitor.getByRole('link', { name: 'Worksheet.pdf' })).toBeVisible();
  await visitor.context().close();
});

test('a picture is cropped by keys, gets its words, and a broken one is told', async ({ page }) => {
  const sheet = await openEvent(page, 'Regatta');
  const choose = async (name: string, buffer: Buffer) => {
    const picker = page.waitForEvent('filechooser');
    await sheet.getByRole('button', { name: 'Add a picture' }).click();
    await (await picker).setFiles([{ name, mimeType: 'image/png', buffer }]);
  };
  await choose('broken.png', Buffer.from('no picture'));
  await expect(sheet.getByText('This picture cannot be read.')).toBeVisible();
  await choose('sheet.png', await page.screenshot());
  const part = sheet.getByRole('group', { name: /The part that is shown/ });
  const before = await part.boundingBox();
  await part.focus();
  for (let i = 0; i < 5; i++) await page.keyboard.press('ArrowUp');
  await expect.poll(async () => (await part.boundingBox())?.y).not.toBe(before?.y);
  await sheet.getByRole('button', { name: 'Use this part' }).click();
  await sheet.getByLabel('What is seen on it').fill('Boats before the start');
  await save(page, 'Regatta');
  await page.reload();
  await expect(sheet.getByRole('img', { name: 'Boats before the start' })).toBeVisible();
});

test('links are tried as an outsider, and one that asks to sign in stands on the checks', async ({ page }) => {
  const title = fresh('Open boats');
  await prepare(page.request).event(calendar, title, addDays(await prepare(page.request).today(), 20), {
    facts: {
      links: [
        { kind: 'more', label: '', address: 'https://lanternfell.example/open-days' },
        { kind: 'register', label: '', address: 'https://lanternfell.example/careers' },
      ],
    },
  });
  await openPlan(page, `?form=lanes&from=${addDays(await prepare(page.request).today(), 18)}`);
  await lane(page)
    .getByRole('button', { name: new RegExp(`^${title}`) })
    .click();
  const sheet = page.getByRole('complementary', { name: title });
  await sheet.getByRole('button', { name: 'Try the links as an outsider' }).click();
  await expect(sheet.getByText('asks to sign in')).toBeVisible();
  await expect(sheet.getByText('opens', { exact: true })).toBeVisible();
  await expect(sheet.getByText(/Outsiders cannot open .*careers/)).toBeVisible();
  await page.goto('/checks');
  await expect(
    page.getByRole('region', { name: 'Links that outsiders cannot open' }).getByText(title).first(),
  ).toBeVisible();
});

test('an event shows less than its calendar, in the sheet and to visitors', async ({ page }) => {
  const today = await prepare(page.request).today();
  const day = addDays(today, 2);
  await prepare(page.request).open(calendar);
  const key = fresh('less').toLowerCase().replace(' ', '-');
  await prepare(page.request).publication(key, calendar);
  await prepare(page.request).event(calendar, 'Staff swim', day);
  await openPlan(page, `?form=lanes&from=${day}`);
  await lane(page)
    .getByRole('button', { name: /^Staff swim/ })
    .click();
  const sheet = page.getByRole('complementary', { name: 'Staff swim' });
  await sheet.getByLabel('What Everyone get').selectOption('times only');
  await save(page, 'Staff swim');
  await expect(sheet.getByLabel('What Link holders get')).toHaveValue('everything');
  const seen = await visit(page, key);
  await expect(seen.getByText('Taken').first()).toBeVisible();
  await expect(seen.getByText('Staff swim')).toHaveCount(0);
  await seen.context().close();
});

test('a template is kept, and a new event starts from it where it is typed', async ({ page }) => {
  const name = fresh('Parents');
  const sheet = await openEvent(page, 'Evening for parents');
  await sheet.getByRole('button', { name: 'Keep as a template' }).click();
  await sheet.getByLabel('Name of the template').fill(name);
  await page.keyboard.press('Enter');
  await expect(page.getByText(`“${name}” is kept as a template.`)).toBeVisible();
  await lane(page)
    .getByRole('button', { name: /on Thursday 11 March/ })
    .click();
  await page.getByRole('button', { name: 'More fields' }).click();
  const fresher = page.getByRole('complementary', { name: 'New event' });
  await fresher.getByLabel('Start from a template').selectOption(name);
  await expect(fresher.getByLabel('Title', { exact: true })).toHaveValue('Evening for parents');
  await expect(fresher.getByLabel('Place')).toHaveValue('Slip 1');
  await fresher.getByRole('button', { name: 'Add event' }).click();
  await expect(
    lane(page).getByRole('button', { name: /^Evening for parents, Thursday 11 March, 18:00/ }),
  ).toBeVisible();
  await page.goto('/lists');
  await page.getByRole('button', { name: `Remove ${name}` }).click();
  await expect(page.getByText(`The template “${name}” is removed.`)).toBeVisible();
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(page.getByRole('button', { name: `Remove ${name}` })).toBeVisible();
});

test('rooms are seen by place: two at once are told, and one is moved to another room by keys', async ({ page }) => {
  const shedName = fresh('Pitch shed');
  // One follows the other, whatever else other tests put somewhere.
  const [first, second] = [`${shedName} A`, `${shedName} B`];
  const at = (place: string, from: string, to: string) => ({
    place,
    timing: { kind: 'zoned', start: `${TUESDAY}T${from}:00`, end: `${TUESDAY}T${to}:00`, zone: null },
  });
  await prepare(page.request).event(calendar, 'Sail cutting', TUESDAY, at(first, '09:00', '11:00'));
  await prepare(page.request).event(calendar, 'Net mending', TUESDAY, at(first, '10:00', '12:00'));
  await prepare(page.request).event(calendar, 'Pump check', TUESDAY, at(second, '09:00', '10:00'));
  await openPlan(page, WINDOW);
  await page.getByRole('button', { name: 'By place' }).click();
  const shed = page.getByRole('group', { name: first, exact: true });
  await expect(shed.getByText('2 at once')).toBeVisible();
  await shed.getByRole('button', { name: /^Net mending/ }).focus();
  await page.keyboard.press('Alt+ArrowDown');
  const moved = page.getByRole('group', { name: second, exact: true }).getByRole('button', { name: /^Net mending/ });
  await expect(moved).toBeFocused();
  await expect(shed.getByText('2 at once')).toHaveCount(0);
  // Typed in a room it has its place, and is asked for its calendar.
  await shed.getByRole('button', { name: `Add at ${first} on Wednesday 10 March` }).click();
  const sheet = page.getByRole('complementary', { name: 'New event' });
  await expect(sheet.getByLabel('Place')).toHaveValue(first);
  await sheet.getByLabel('Title', { exact: true }).fill('Twine');
  await sheet.getByRole('button', { name: 'Add event' }).click();
  await expect(sheet.getByText('Choose the calendar it goes into.')).toBeVisible();
  await sheet.getByRole('combobox', { name: 'Calendar', exact: true }).selectOption(calendar.title);
  await sheet.getByRole('button', { name: 'Add event' }).click();
  await expect(shed.getByRole('button', { name: /^Twine, Wednesday 10 March/ })).toBeVisible();
});

test('the board is printed on a chosen paper with the key of marks, the month with the weeks on the screen', async ({
  page,
}) => {
  await openPlan(page, WINDOW);
  await page.evaluate(() => {
    window.print = () => {
      const pages = document.adoptedStyleSheets.flatMap((s) => [...s.cssRules].map((r) => r.cssText));
      document.title = pages.join();
    };
  });
  await page.getByRole('button', { name: 'Print', exact: true }).click();
  await page.getByRole('button', { name: 'A3', exact: true }).click();
  await expect(page).toHaveTitle(/a3 landscape/i);
  await page.emulateMedia({ media: 'print' });
  await expect(page.getByRole('list', { name: 'Key of marks' }).getByText(calendar.title)).toBeVisible();
  await expect(page.getByRole('navigation')).toHaveCount(0);

  await page.emulateMedia({ media: 'screen' });
  await openPlan(page, '?form=month&from=2026-11-02');
  await expect(page.getByRole('button', { name: 'Add an event on Monday 2 November' })).toBeAttached();
  await page.emulateMedia({ media: 'print' });
  await expect(page.locator('.week:visible')).toHaveCount(5);
});
