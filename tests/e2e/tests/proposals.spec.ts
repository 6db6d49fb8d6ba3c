import { expect, type Page } from '@playwright/test';
import {
  addDays,
  fitsTheWidth,
  fresh,
  invitedPerson,
  openPlan,
  prepare,
  signIn,
  type Made,
  test,
} from '../support/valtro';

const BEA = 'bea.lindqvist@lanternfell.example';
const INES = 'ines.harrow@lanternfell.example';
// A week of no school year.
const WEEK = '?form=lanes&from=2034-03-06';

// They share one queue: one after the other.
test.describe.configure({ mode: 'default' });

const lane = (page: Page, calendar: Made) => page.getByRole('group', { name: calendar.title, exact: true });

/** A calendar of the signed-in person that Bea proposes for. */
const calendarForBea = async (page: Page, name: string): Promise<Made> => {
  const calendar = await prepare(page.request).calendar(fresh(name));
  const { people } = (await (await page.request.get('/api/people')).json()) as {
    people: { id: string; name: string }[];
  };
  const shared = await page.request.put(`/api/calendars/${calendar.id}/roles`, {
    data: { personId: people.find((p) => p.name === 'Bea Lindqvist')?.id, role: 'proposer' },
  });
  expect(shared.ok()).toBe(true);
  return calendar;
};

const offer = async (page: Page, calendar: Made, title: string, day = '2034-03-07') => {
  const answer = await page.request.post('/api/proposals', {
    data: {
      event: {
        calendarId: calendar.id,
        title,
        place: 'Slip 1',
        description: '',
        timing: { kind: 'zoned', start: `${day}T18:00:00`, end: `${day}T19:30:00`, zone: null },
        rule: null,
        version: null,
      },
      remark: 'As every year',
    },
  });
  expect(answer.ok(), await answer.text()).toBe(true);
};

/** Nothing waits any more, whatever was proposed before. */
const emptyQueue = async (page: Page) => {
  const all = (await (await page.request.get('/api/proposals')).json()) as {
    id: string;
    version: number;
    asks: { answer: string; mayDecide: boolean }[];
  }[];
  for (const { id, version } of all.filter((p) => p.asks.some((a) => a.answer === 'open' && a.mayDecide))) {
    const data = { answer: 'declined', remark: 'From before', version };
    const answer = await page.request.post(`/api/proposals/${id}/answer`, { data });
    expect(answer.ok(), await answer.text()).toBe(true);
  }
};

test('somebody is invited, proposes, is approved, and it is out', async ({ page, browser }) => {
  await signIn(page);
  const here = prepare(page.request);
  const calendar = await here.open(await here.calendar(fresh('Proposed to')));
  const key = fresh('proposed-to').replace(' ', '-');
  await here.publication(key, calendar);
  const nora = await invitedPerson(page, browser, fresh('Nora Vale'));
  const name = (await nora.locator('.top-person button').getAttribute('aria-label'))?.split(':')[0] ?? '';

  const day = addDays(await here.today(), 2);
  const week = `?form=lanes&from=${day}&days=5`;
  const said = new Intl.DateTimeFormat('en-GB', { weekday: 'long', day: 'numeric', month: 'long', timeZone: 'UTC' });

  // Shared as a proposer.
  await openPlan(page, week);
  await lane(page, calendar).getByRole('button', { name: calendar.title, exact: false }).first().click();
  await page.getByLabel('share with somebody').selectOption(name);
  await page.getByLabel(`Role of ${name}`).selectOption('proposer');
  await expect(page.getByLabel(`Role of ${name}`)).toHaveValue('proposer');
  await page.keyboard.press('Escape');

  await nora.goto(`/plan${week}`);
  await lane(nora, calendar).scrollIntoViewIfNeeded();
  await lane(nora, calendar)
    .getByRole('button', { name: new RegExp(`on ${said.format(new Date(day))}`) })
    .click();
  await nora.keyboard.type('Harbour lights 19-20');
  await nora.getByRole('button', { name: 'Propose', exact: true }).click();
  await expect(lane(nora, calendar).getByRole('button', { name: /^Harbour lights.*proposed/ })).toBeVisible();
  const visitor = await (await browser.newContext()).newPage();
  await visitor.goto(`/p/${key}?view=list`);
  await expect(visitor.getByText('Harbour lights')).toHaveCount(0);

  // It stands on the keeper's board by itself, and is answered there.
  await lane(page, calendar)
    .getByRole('button', { name: /^Harbour lights.*proposed/ })
    .click();
  const sheet = page.getByRole('complementary', { name: 'Harbour lights' });
  await expect(sheet.getByText(`${name} proposes this.`)).toBeVisible();
  await sheet.getByRole('button', { name: 'Approve' }).click();
  await expect(lane(page, calendar).getByRole('button', { name: /^Harbour lights/ })).not.toHaveAccessibleName(
    /proposed/,
  );
  await visitor.reload();
  await expect(visitor.getByText('Harbour lights').first()).toBeVisible();

  await nora.goto('/proposals');
  await expect(nora.getByRole('region', { name: 'What you proposed' })).toContainText('approved');
  await visitor.context().close();
  await nora.context().close();
});

test('many are decided by keys, one after the other, and undone', async ({ page, browser }) => {
  await signIn(page, INES);
  await emptyQueue(page);
  const calendar = await calendarForBea(page, 'By keys');
  const other = await browser.newContext();
  const bea = await other.newPage();
  await signIn(bea, BEA);
  const titles = [fresh('First boat'), fresh('Second boat'), fresh('Third boat')];
  for (const title of titles) await offer(bea, calendar, title);
  const [first = '', second = '', third = ''] = titles;

  await page.goto('/proposals');
  const waiting = page.getByRole('region', { name: 'Waiting for you' });
  const head = (title: string) => page.getByRole('button', { name: new RegExp(`^${title}`) });
  await expect(head(first)).toHaveAttribute('aria-expanded', 'true');
  await expect(waiting.getByText('As every year')).toBeVisible();
  // Two at one place at one time: told before anything is decided.
  await expect(waiting.getByRole('list', { name: 'Clashes' })).toContainText(second);
  await page.keyboard.press('a');
  await expect(head(second)).toHaveAttribute('aria-expanded', 'true');
  await page.keyboard.press('b');
  await page.getByLabel('What should be different?').press('Enter');
  await expect(page.getByRole('alert')).toHaveText('Say in a few words what should be different.');
  await page.getByLabel('What should be different?').fill('Another hour, please');
  await page.keyboard.press('Enter');
  await expect(head(third)).toHaveAttribute('aria-expanded', 'true');
  await page.keyboard.press('d');
  await expect(page.getByLabel('Why not? (may be left empty)')).toBeFocused();
  await page.keyboard.press('Enter');
  await expect(waiting).toHaveCount(0);
  await page.keyboard.press('u');
  await expect(waiting.getByRole('button', { name: new RegExp(`^${third}`) })).toBeVisible();

  // The proposer reads what was said, and makes it better.
  await bea.goto('/proposals');
  const mine = bea.getByRole('region', { name: 'What you proposed' });
  await mine.getByRole('button', { name: new RegExp(`^${second}`) }).click();
  await expect(mine.getByText('Another hour, please')).toBeVisible();
  await bea.getByRole('button', { name: 'Change it' }).click();
  await bea.getByLabel('From', { exact: true }).fill('20:00');
  await bea.getByLabel('A word to the keepers').fill('Now at eight');
  await bea.getByRole('button', { name: 'Propose it again' }).click();
  await expect(waiting.getByRole('button', { name: new RegExp(`^${second}.*20:00`) })).toBeVisible();
  await other.close();
});

test('a change is proposed, and until it is approved the old version stands', async ({ page, browser }) => {
  await signIn(page, INES);
  const calendar = await calendarForBea(page, 'To be changed');
  const title = fresh('Rope walk');
  await prepare(page.request).event(calendar, title, '2034-03-08');
  const other = await browser.newContext();
  const bea = await other.newPage();
  await openPlan(bea, WEEK, BEA);
  const entry = (p: Page, name: RegExp) => lane(p, calendar).getByRole('button', { name });
  await entry(bea, new RegExp(`^${title}`)).click();
  await bea.getByRole('button', { name: 'Propose a change' }).click();
  await bea.getByLabel('Title', { exact: true }).fill(`${title} by night`);
  await expect(bea.getByText(/^The keepers of To be changed.* are asked first/)).toBeVisible();
  await bea.getByRole('button', { name: 'Propose', exact: true }).click();
  await expect(entry(bea, new RegExp(`^${title} by night.*change proposed`))).toBeVisible();

  await openPlan(page, WEEK, INES);
  await expect(entry(page, new RegExp(`^${title}, Wed`))).toBeVisible();
  await entry(page, new RegExp(`^${title} by night`)).click();
  const sheet = page.getByRole('complementary', { name: `${title} by night` });
  await expect(sheet.getByText(title, { exact: true })).toBeVisible();
  await sheet.getByRole('button', { name: 'Approve' }).click();
  await expect(entry(page, new RegExp(`^${title} by night, Wed`))).not.toHaveAccessibleName(/proposed/);
  await expect(entry(page, new RegExp(`^${title}, Wed`))).toHaveCount(0);
  await other.close();
});

test('the page of proposals fits a phone', async ({ page }) => {
  await signIn(page);
  await page.goto('/proposals');
  await expect(page.getByRole('region', { name: 'Waiting for you' })).toBeVisible();
  await page.setViewportSize({ width: 390, height: 800 });
  await fitsTheWidth(page);
});
