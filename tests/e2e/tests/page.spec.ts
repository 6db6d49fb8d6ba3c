import ICAL from 'ical.js';
import { expect } from '@playwright/test';
import {
  addDays,
  fitsTheWidth,
  freshKey,
  fresh,
  prepare,
  signIn,
  isAccessible,
  now,
  violations,
  test,
} from '../support/valtro';

test.describe('the published page', () => {
  let key = '';
  let day = '';

  test.beforeAll(async ({ browser }) => {
    const page = await browser.newPage();
    await signIn(page);
    const here = prepare(page.request);
    const [dances, repairs] = [
      await here.open(await here.calendar(fresh('Dances'))),
      await here.open(await here.calendar(fresh('Repairs'))),
    ];
    day = await here.today();
    await here.event(dances, 'Quay dance', addDays(day, 1));
    await here.event(repairs, 'Net mending', addDays(day, 1));
    await here.event(repairs, 'Far regatta', addDays(day, 200));
    key = freshKey('paged');
    await here.publication(key, dances, {
      title: 'Dances and repairs',
      calendarIds: [dances.id, repairs.id],
      firstView: 'list',
      look: { views: ['list', 'month', 'week', 'day', 'cards'], newsDays: 7 },
    });
    await page.context().close();
  });

  test('is searched and narrowed, its address leads there again, and on a phone it tells how to subscribe', async ({
    page,
  }) => {
    await page.goto(`/p/${key}`);
    await expect(page.getByText('Quay dance')).toBeVisible();
    await expect(page.getByText('Net mending')).toBeVisible();
    await page.getByRole('button', { name: /^Repairs/ }).click();
    await expect(page.getByText('Net mending')).toBeHidden();
    await expect(page).toHaveURL(/off=[0-9a-f]{8}/);
    await page.reload();
    await expect(page.getByText('Quay dance')).toBeVisible();
    await expect(page.getByText('Net mending')).toBeHidden();
    await page.getByRole('button', { name: /^Repairs/ }).click();

    await page.getByRole('searchbox', { name: 'Search' }).fill('regatta');
    // Also what lies far ahead is found.
    await expect(page.getByText('Far regatta')).toBeVisible();
    await expect(page.getByText('Quay dance')).toBeHidden();
    await expect(page).toHaveURL(/q=regatta/);
    await page.getByRole('searchbox', { name: 'Search' }).fill('nothing of the kind');
    await expect(page.getByText('Nothing is found.')).toBeVisible();
    await page.getByRole('searchbox', { name: 'Search' }).fill('');

    await page.getByRole('button', { name: 'Week' }).click();
    // By a small month, as far as one likes.
    await page.getByRole('button', { name: 'Go to a day' }).click();
    const far = page.getByRole('dialog').getByRole('button', { name: nameOf(addDays(day, 200)), exact: true });
    while ((await far.count()) === 0) await page.getByRole('button', { name: 'The month after' }).click();
    await far.click();
    await expect(page.getByRole('button', { name: /Far regatta/ })).toBeVisible();
    await page.reload();
    await expect(page.getByRole('button', { name: /Far regatta/ })).toBeVisible();

    await page.setViewportSize({ width: 390, height: 800 });
    await page.goto(`/p/${key}`);
    await page.getByRole('button', { name: 'Subscribe' }).click();
    const how = page.getByRole('region', { name: 'Subscribe' });
    const code = how.getByRole('img', { name: 'Code that leads a camera to the subscription' });
    await expect.poll(() => code.evaluate((img: HTMLImageElement) => img.naturalWidth)).toBeGreaterThan(0);
    await expect(how.getByRole('link', { name: 'Calendar file' })).toHaveAttribute('href', /snapshot\.ics$/);
    await fitsTheWidth(page);
    expect(await violations(page)).toEqual([]);
  });

  test('leads to a page of each event, with its own file, to be passed on and printed', async ({ page }) => {
    await page.goto(`/p/${key}`);
    await page.getByText('Quay dance').click();
    await expect(page.getByText('new', { exact: true }).first()).toBeVisible();
    const opened = page.waitForEvent('popup');
    await page.getByRole('link', { name: 'Page of this event' }).first().click();
    const own = await opened;
    await expect(own.getByRole('heading', { level: 1, name: 'Quay dance' })).toBeVisible();
    await expect(own).toHaveTitle(/Quay dance/);
    await expect(own.getByRole('button', { name: 'Print' })).toBeVisible();
    const download = own.waitForEvent('download');
    await own.getByRole('link', { name: 'Add to my calendar' }).click();
    expect((await download).suggestedFilename()).toMatch(/\.ics$/);
    await own.context().grantPermissions(['clipboard-read', 'clipboard-write']);
    await own.evaluate(() => Object.defineProperty(navigator, 'share', { value: undefined }));
    await own.getByRole('button', { name: 'Share' }).click();
    await expect(own.getByRole('button', { name: 'Copied' })).toBeVisible();
    expect(await own.evaluate(() => navigator.clipboard.readText())).toBe(own.url());
    expect(await violations(own)).toEqual([]);
    await own.getByRole('link', { name: 'Whole calendar' }).click();
    await expect(own.getByRole('heading', { level: 1, name: 'Dances and repairs' })).toBeVisible();
  });

  test('every view is accessible, by day and by night', async ({ page }) => {
    for (const view of ['list', 'month', 'week', 'day', 'cards']) {
      await page.goto(`/p/${key}?view=${view}`);
      await expect(page.locator('.bar')).toBeVisible();
      await isAccessible(page);
    }
  });
});

// Two readers that had no part in writing them find the same dates in the demo school's feeds: this one, and the one the
// proof reads with.
for (const key of ['lanternfell', 'families']) {
  test(`the feed ${key} is read alike by independent readers, as text and as JSON`, async ({ page }) => {
    const feed = await (await page.request.get(`/p/${key}/feed.ics`)).text();
    const json = (await (await page.request.get(`/p/${key}/feed.json`)).json()) as unknown[];
    const plain = (await (await page.request.get(`/p/${key}/dates.json`)).json()) as {
      dates: { id: string; start: string; allDay: boolean; calledOff: boolean }[];
    };
    const parsed = ICAL.parse(feed) as unknown[];
    // The same calendar, property by property.
    const text = (calendar: unknown) => new ICAL.Component(calendar as never).toString();
    // The reader does not know the name of a calendar (RFC 7986, 5.1) and writes its type out.
    expect(text(json).replace('NAME;VALUE=TEXT:', 'NAME:')).toBe(text(parsed));

    const calendar = new ICAL.Component(parsed as never);
    calendar.getAllSubcomponents('vtimezone').forEach((zone) => ICAL.TimezoneService.register(zone));
    const from = ICAL.Time.fromJSDate(new Date(now() - 2 * 86_400_000), true);
    const until = now() + 178 * 86_400_000;
    const events = calendar.getAllSubcomponents('vevent').map((c) => new ICAL.Event(c));
    const own = events.filter(
      (e) => !e.isRecurrenceException() && e.component.getFirstPropertyValue('status') !== 'CANCELLED',
    );
    for (const change of events.filter((e) => e.isRecurrenceException()))
      own.find((e) => e.uid === change.uid)?.relateException(change);
    const found: string[] = [];
    for (const event of own) {
      const steps = event.iterator();
      for (let next = steps.next(); next; next = steps.next()) {
        const details = event.getOccurrenceDetails(next);
        const start = details.startDate;
        if (start.toJSDate().getTime() > until) break;
        if (details.item.component.getFirstPropertyValue('status') === 'CANCELLED') continue;
        if (start.compare(from) >= 0)
          found.push(`${event.uid} ${start.isDate ? start.toString() : start.toJSDate().toISOString()}`);
      }
    }
    const ours = plain.dates
      .filter((d) => !d.calledOff)
      .map((d) => `${d.id.slice(0, d.id.lastIndexOf('-'))} ${d.allDay ? d.start : new Date(d.start).toISOString()}`);
    // Ours begin today, theirs a little before.
    const today = ours[0] ? (plain.dates[0]?.start.slice(0, 10) ?? '') : '';
    const theirs = found.filter((f) => (f.split(' ')[1] ?? '').slice(0, 10) > today);
    const limit = new Date(until).toISOString().slice(0, 10);
    const inside = (line: string) =>
      (line.split(' ')[1] ?? '').slice(0, 10) > today && (line.split(' ')[1] ?? '').slice(0, 10) < limit;
    expect(theirs.filter(inside).sort()).toEqual(ours.filter(inside).sort());
    expect(ours.filter(inside).length).toBeGreaterThan(9);

    await signIn(page);
    const publications = (await (await page.request.get('/api/publications')).json()) as { id: string; key: string }[];
    const id = publications.find((p) => p.key === key)?.id ?? '';
    const proof = (await (await page.request.get(`/api/publications/${id}/proof`)).json()) as {
      readBack: { dates: number; missing: string[]; extra: string[] };
    };
    expect(proof.readBack).toMatchObject({ missing: [], extra: [] });
    // Of the demo's year less is left the later it is.
    expect(proof.readBack.dates).toBeGreaterThan(10);
  });
}

/** A day as visitors read it. */
const nameOf = (day: string): string =>
  new Intl.DateTimeFormat('en-GB', { dateStyle: 'full', timeZone: 'UTC' }).format(new Date(day)).replace(',', '');
