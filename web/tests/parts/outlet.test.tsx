import { page, userEvent } from 'vitest/browser';
import { expect, it } from 'vitest';
import { cleanup, render } from 'vitest-browser-react';
import { Outlet } from '../../src/outlet/Outlet';
import { textsOf, type OutletEvent, type OutletStart } from '../../src/outlet/model';
import { USUAL_OUTLET } from '../samples';
import { addDays } from '../../src/shared/dates';
import { answer } from './server';
import '../../src/outlet/outlet.scss';

const onDay = (day: string, title: string, change: Partial<OutletEvent> = {}): OutletEvent => ({
  id: `${title} ${day}`,
  calendar: 0,
  title,
  allDay: false,
  start: `${day}T18:00:00`,
  end: `${day}T19:00:00`,
  firstDay: day,
  lastDay: day,
  ...change,
});

const startOn = (today: string, events: OutletEvent[], change: Partial<OutletStart> = {}): OutletStart => ({
  ...USUAL_OUTLET,
  events: '/api/days?',
  today,
  window: { from: addDays(today, -8), to: addDays(today, 42), events },
  ...change,
});

const show = async (start: OutletStart) => {
  document.body.className = 'outlet outlet-page';
  history.replaceState(null, '', location.pathname);
  const { container } = await render(
    <main>
      <Outlet start={start} texts={await textsOf(start.language)} isPage />
    </main>,
  );
  return container;
};

const DAYS = ['2027-01-01', '2027-01-15', '2027-02-28', '2027-01-31'];

for (const [width, height] of [
  [320, 568],
  [390, 844],
] as const) {
  for (const today of DAYS) {
    it(`shows what comes next on the first screen of a phone of ${width} by ${height}, on ${today}`, async () => {
      await page.viewport(width, height);
      const past = onDay(addDays(today, -3), 'Over and done');
      await show(startOn(today, [past, onDay(addDays(today, 9), 'Lantern walk')]));
      // A phone’s header and the words under the title take their room, too.
      const next = page.getByRole('listitem').filter({ hasText: 'Lantern walk' }).getByText('Lantern walk').first();
      await expect.element(next).toBeVisible();
      const seen = [...document.querySelectorAll('.coming .title')].find((e) => e.textContent === 'Lantern walk');
      expect(seen?.getBoundingClientRect().bottom ?? height).toBeLessThan(height - 168);
      expect(document.documentElement.scrollWidth).toBeLessThanOrEqual(width);
    });
  }
}

for (const today of DAYS) {
  it(`begins the month with this week, and goes back in one step, on ${today}`, async () => {
    await page.viewport(1280, 800);
    answer('GET /api/days', ({ from, to }: { from: string; to: string }) => ({ from, to, events: [] }));
    const container = await show(startOn(today, [onDay(addDays(today, 1), 'Lantern walk')]));
    const days = () => [...container.querySelectorAll('section.day')];
    expect(days()).toHaveLength(35);
    expect(
      days()
        .slice(0, 7)
        .some((d) => d.classList.contains('is-today')),
    ).toBe(true);
    await page.getByRole('button', { name: 'Earlier' }).click();
    // The week one came from is still there, as the last.
    await expect.poll(() => days().findIndex((d) => d.classList.contains('is-today'))).toBeGreaterThanOrEqual(28);
    await page.getByRole('button', { name: 'Later' }).click();
    await expect
      .poll(() =>
        days()
          .slice(0, 7)
          .some((d) => d.classList.contains('is-today')),
      )
      .toBe(true);
  });
}

it('says where nothing is on when the next is, and leads there', async () => {
  await page.viewport(1280, 800);
  answer('GET /api/days', ({ from, to }: { from: string; to: string }) => ({
    from,
    to,
    events: from <= '2029-02-03' && '2029-02-03' < to ? [onDay('2029-02-03', 'Only one')] : [],
  }));
  const far = onDay('2029-02-03', 'Only one');
  const container = await show(
    startOn('2027-01-01', [], {
      beyond: [far],
      window: { from: '2026-12-20', to: '2027-03-01', events: [], next: '2029-02-03' },
    }),
  );
  await page.getByRole('button', { name: 'Next: Saturday 3 February 2029' }).click();
  await expect.poll(() => container.querySelector('.in-day .title')?.textContent).toBe('Only one');
  // A list goes on until it has something, however far that is.
  await page.getByRole('button', { name: 'Today' }).click();
  await page.getByRole('button', { name: 'List' }).click();
  await expect.element(page.getByRole('heading', { name: 'Saturday 3 February 2029' })).toBeVisible();
});

it('shows a few of many on one day, and the rest on request, by keys', async () => {
  await page.viewport(1280, 800);
  const many = Array.from({ length: 16 }, (_, i) => onDay('2027-01-02', `Watch ${i}`));
  const container = await show(startOn('2027-01-01', many));
  const cell = () => container.querySelectorAll('section.day')[5]?.querySelectorAll('.in-day .title').length;
  expect(cell()).toBe(4);
  (page.getByRole('button', { name: 'and 12 more' }).element() as HTMLElement).focus();
  await userEvent.keyboard('{Enter}');
  await expect.poll(cell).toBe(16);
});

it('carries the title of what lasts for days into each week', async () => {
  await page.viewport(1280, 800);
  const camp = onDay('2027-01-08', 'Winter camp', { allDay: true, lastDay: '2027-01-20' });
  const container = await show(startOn('2027-01-04', [camp]));
  const titled = [...container.querySelectorAll('section.day li:not(.goes-on)')].map((li) =>
    li.closest('section')?.getAttribute('aria-label'),
  );
  expect(titled).toEqual(['Friday 8 January 2027', 'Monday 11 January 2027', 'Monday 18 January 2027']);
});

it('offers the feed of what one sees', async () => {
  await page.viewport(1280, 800);
  await show(startOn('2027-01-01', [onDay('2027-01-02', 'Lantern walk')]));
  await page.getByRole('button', { name: 'Rigging 2' }).click();
  await page.getByRole('button', { name: 'Subscribe' }).click();
  await expect.element(page.getByText('This is the feed of what you see')).toBeVisible();
  await expect
    .element(page.getByRole('textbox', { name: 'Copy link' }))
    .toHaveValue('https://lanternfell.example/p/families/feed.ics?off=aa00bb11');
});

const LONG = 'Donaudampfschifffahrtselektrizitätenhauptbetriebswerkbauunterbeamtengesellschaft';

for (const language of ['en', 'de', 'ar']) {
  it(`fits 280 to 1280 pixels in every view on every day, in ${language}`, async () => {
    answer('GET /api/days', ({ from, to }: { from: string; to: string }) => ({ from, to, events: [] }));
    document.documentElement.dir = language === 'ar' ? 'rtl' : 'ltr';
    for (const width of [280, 320, 390, 1280]) {
      await page.viewport(width, 844);
      for (const today of DAYS)
        for (const view of ['month', 'list', 'week', 'day', 'upcoming', 'cards', 'small'] as const) {
          const events = [
            onDay(addDays(today, -2), 'Over and done'),
            onDay(today, LONG, { place: LONG }),
            onDay(addDays(today, 1), 'Lantern walk'),
            onDay(addDays(today, 4), 'Winter camp', { allDay: true, lastDay: addDays(today, 12) }),
          ];
          const container = await show(
            startOn(today, events, {
              language,
              window: { from: addDays(today, -60), to: addDays(today, 60), events },
              firstView: view,
              look: { ...USUAL_OUTLET.look, views: ['month', 'list', 'week', 'day', 'cards', 'small'], print: true },
            }),
          );
          const what = `${view} of ${width} on ${today}`;
          expect(document.documentElement.scrollWidth, what).toBeLessThanOrEqual(width);
          // What is on today is seen, and nothing that is over stands before it.
          const seen = container.textContent;
          expect(seen, what).toContain(LONG);
          if (view === 'list' || view === 'upcoming' || view === 'cards')
            expect(seen, what).not.toContain('Over and done');
          await cleanup();
        }
    }
    document.documentElement.dir = 'ltr';
  });
}
