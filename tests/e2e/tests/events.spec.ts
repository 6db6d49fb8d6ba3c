import { expect } from '@playwright/test';
import {
  fresh,
  openOwnPlan,
  openPlan,
  PASSWORD,
  prepare,
  signIn,
  type Made,
  test,
  invitedPerson,
} from '../support/valtro';

// A week without closures around the change of the clocks.
const WEEK = '?form=lanes&from=2031-03-10&days=7';
const TUESDAY = '2031-03-11';

let calendar: Made;

test.beforeEach(async ({ page }) => {
  await signIn(page);
  calendar = await prepare(page.request).calendar(fresh('Sheets'));
});

test('an event is changed, deleted and brought back; what the server refuses stays, with the reason beside it', async ({
  page,
}) => {
  await prepare(page.request).event(calendar, 'Oar shaping', TUESDAY);
  await openPlan(page, WEEK);
  const lane = page.getByRole('group', { name: calendar.title, exact: true });
  await lane.getByRole('button', { name: /^Oar shaping/ }).click();
  const sheet = page.getByRole('complementary', { name: 'Oar shaping' });
  await sheet.getByLabel('From').fill('9:15');
  await sheet.getByLabel('Place').fill('Shed C');
  await sheet.getByRole('button', { name: 'Save' }).click();
  // The length stays when the start moves.
  await expect(sheet.getByLabel('To', { exact: true })).toHaveValue('10:45');
  await expect(lane.getByRole('button', { name: 'Oar shaping, Tuesday 11 March, 9:15, Shed C' })).toBeVisible();

  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(lane.getByRole('button', { name: 'Oar shaping, Tuesday 11 March, 18:00, Slip 1' })).toBeVisible();

  await sheet.getByLabel('Title', { exact: true }).fill('');
  await sheet.getByRole('textbox', { name: 'Details' }).fill('Boots, and a lamp.');
  await sheet.getByRole('button', { name: 'Save' }).click();
  await expect(sheet.getByText('A title is needed: a word is enough.')).toBeVisible();
  await expect(sheet.getByRole('textbox', { name: 'Details' })).toHaveText('Boots, and a lamp.');
  await sheet.getByLabel('Title', { exact: true }).fill('Oar shaping');
  await sheet.getByLabel('To', { exact: true }).fill('17:00');
  await sheet.getByRole('button', { name: 'Save' }).click();
  await expect(sheet.getByText('The end is before the start. Set it to the same time or later.')).toBeVisible();
  await sheet.getByLabel('To', { exact: true }).fill('20:00');
  await sheet.getByRole('button', { name: 'Save' }).click();
  await expect(page.getByRole('status')).toContainText('“Oar shaping” is changed.');

  await sheet.getByRole('button', { name: 'Delete' }).click();
  await expect(lane.getByRole('button', { name: /^Oar shaping/ })).toHaveCount(0);
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(lane.getByRole('button', { name: /^Oar shaping/ })).toBeVisible();
});

test('a new event with all its fields repeats every second week until a date', async ({ page }) => {
  await openPlan(page, WEEK);
  const lane = page.getByRole('group', { name: calendar.title, exact: true });
  await lane.getByRole('button', { name: `Add to ${calendar.title} on Tuesday 11 March` }).click();
  await page.getByRole('button', { name: 'More fields' }).click();
  const sheet = page.getByRole('complementary', { name: 'New event' });
  await sheet.getByLabel('Title', { exact: true }).fill('Varnish');
  await sheet.getByLabel('all day').uncheck();
  await sheet.getByLabel('From', { exact: true }).fill('13');
  await sheet.getByRole('button', { name: 'Every week' }).click();
  await sheet.getByRole('spinbutton', { name: /^Every/ }).fill('2');
  await sheet.getByLabel('Ends').selectOption('until a date');
  await sheet.getByLabel('Last date').fill('8 Apr 2031');
  await sheet.getByLabel('Last date').blur();
  await expect(sheet.getByText('every second Tuesday until 8 April 2031')).toBeVisible();
  await expect(sheet.getByText('3 dates, the last on 8 April 2031.')).toBeVisible();
  await sheet.getByRole('button', { name: 'Add event' }).click();
  await expect(lane.getByRole('button', { name: /^Varnish, Tuesday 11 March, 13:00/ })).toBeVisible();
});

test.describe('a series', () => {
  test.beforeEach(async ({ page }) => {
    await prepare(page.request).event(calendar, 'Knots', TUESDAY, {
      rule: { frequency: 'weekly', interval: 1, days: ['tuesday', 'thursday'], count: 6, until: null },
    });
    await openPlan(page, WEEK);
  });

  test('loses a date, has one moved and one called off, gets one more and another pattern', async ({ page }) => {
    const lane = page.getByRole('group', { name: calendar.title, exact: true });
    await lane.getByRole('button', { name: /^Knots, Thursday/ }).click();
    await page.getByRole('button', { name: 'Leave out this date' }).click();
    await expect(lane.getByRole('button', { name: /^Knots, Thursday/ })).toHaveCount(0);

    await lane.getByRole('button', { name: /^Knots, Tuesday/ }).click();
    await expect(page.getByText('5 dates, the last on 27 March 2031.')).toBeVisible();
    await page.getByRole('button', { name: 'Thursday 13 March, left out; put it back' }).click();
    await expect(lane.getByRole('button', { name: /^Knots, Thursday/ })).toBeVisible();

    await lane.getByRole('button', { name: /^Knots, Tuesday/ }).click();
    const sheet = page.getByRole('complementary');
    await expect(sheet.getByRole('button', { name: 'This date', exact: true })).toHaveAttribute('aria-pressed', 'true');
    await sheet.getByLabel('Date', { exact: true }).fill('12 Mar 2031');
    await sheet.getByLabel('From').fill('14:00');
    await sheet.getByRole('button', { name: 'Save this date' }).click();
    await expect(lane.getByRole('button', { name: /^Knots, Wednesday 12 March, 14:00, .*changed$/ })).toBeVisible();
    await expect(lane.getByRole('button', { name: /^Knots, Tuesday/ })).toHaveCount(0);

    await lane.getByRole('button', { name: /^Knots, Thursday/ }).click();
    await page.getByRole('button', { name: 'Call off' }).click();
    await expect(lane.getByRole('button', { name: /^Knots, Thursday .*called off$/ })).toBeVisible();
    await page.getByRole('button', { name: 'Undo' }).click();
    await expect(lane.getByRole('button', { name: /^Knots, Thursday .*called off$/ })).toHaveCount(0);

    await lane.getByRole('button', { name: /^Knots, Wednesday/ }).click();
    await page.getByRole('button', { name: 'As on the other dates' }).click();
    await lane.getByRole('button', { name: 'Knots, Tuesday 11 March, 18:00, Slip 1' }).click();
    await sheet.getByLabel('Add a date').fill('15 Mar 2031');
    await sheet.getByRole('button', { name: 'Add', exact: true }).click();
    await expect(lane.getByRole('button', { name: /^Knots, Saturday 15 March/ })).toBeVisible();
    await expect(sheet.getByRole('button', { name: 'Saturday 15 March, added' })).toBeVisible();

    await sheet.getByRole('button', { name: 'Every date' }).click();
    await sheet.getByRole('button', { name: 'Every month' }).click();
    await sheet.getByLabel('Day of the month').selectOption('the second Tuesday');
    await expect(sheet.getByText('every month on the second Tuesday, 6 times')).toBeVisible();
    await sheet.getByRole('button', { name: 'Save every date' }).click();
    await expect(lane.getByRole('button', { name: /^Knots, Thursday/ })).toHaveCount(0);
  });

  test('is changed from a date on or whole, says before what that does, and takes a rule as text', async ({ page }) => {
    const lane = page.getByRole('group', { name: calendar.title, exact: true });
    await lane.getByRole('button', { name: /^Knots, Thursday/ }).click();
    const sheet = page.getByRole('complementary');
    await sheet.getByRole('button', { name: 'From this date on' }).click();
    await sheet.getByLabel('Title', { exact: true }).fill('Splices');
    await sheet.getByLabel('From').fill('16:00');
    await sheet.getByLabel('From').blur();
    const plan = sheet.getByRole('region', { name: 'What this does' });
    await expect(plan).toContainText('The series is split');
    await expect(plan).toContainText('5 dates move');
    await sheet.getByRole('button', { name: 'Save from this date on' }).click();
    await expect(lane.getByRole('button', { name: /^Splices, Thursday 13 March, 16:00/ })).toBeVisible();
    await expect(lane.getByRole('button', { name: /^Knots, Tuesday 11 March, 18:00/ })).toBeVisible();
    await page.getByRole('button', { name: 'Undo' }).click();
    await expect(lane.getByRole('button', { name: /^Knots, Thursday 13 March, 18:00/ })).toBeVisible();
    await expect(lane.getByRole('button', { name: /^Splices/ })).toHaveCount(0);

    // What becomes of a changed date that fits no more is asked before anything is saved.
    await lane.getByRole('button', { name: /^Knots, Thursday/ }).click();
    await sheet.getByLabel('Title', { exact: true }).fill('Exam');
    await sheet.getByRole('button', { name: 'Save this date' }).click();
    await expect(lane.getByRole('button', { name: /^Exam, Thursday .*changed$/ })).toBeVisible();

    await sheet.getByRole('button', { name: 'Every date' }).click();
    await sheet.getByRole('button', { name: 'Thursday', exact: true }).click();
    const decide = sheet.getByRole('combobox', { name: /^What becomes of it\? Thu 13 Mar/ });
    await expect(decide).toBeVisible();
    await expect(sheet.getByRole('button', { name: 'Save every date' })).toBeDisabled();
    await decide.selectOption('keep as an event of its own');
    await sheet.getByRole('button', { name: 'Save every date' }).click();
    await expect(lane.getByRole('button', { name: 'Exam, Thursday 13 March, 18:00, Slip 1' })).toBeVisible();
    await expect(lane.getByRole('button', { name: /^Knots, Thursday/ })).toHaveCount(0);

    // Any rule of the standard is taken as text.
    await lane.getByRole('button', { name: /^Knots, Tuesday/ }).click();
    await sheet.getByRole('button', { name: 'Every date' }).click();
    await sheet.getByText('Another rule, as text').click();
    const text = sheet.getByLabel('Rule as text (RFC 5545)');
    await text.fill('FREQ=WEEKLY;BYMONTHDAY=3');
    await text.press('Enter');
    await expect(sheet.getByText('BYMONTHDAY cannot stand with FREQ=WEEKLY (RFC 5545, 3.3.10).')).toBeVisible();
    await expect(text).toHaveValue('FREQ=WEEKLY;BYMONTHDAY=3');
    await text.fill('FREQ=MONTHLY;BYDAY=MO,TU,WE,TH,FR;BYSETPOS=-1;COUNT=3');
    await text.press('Enter');
    await expect(sheet.getByText('every month on the last day from Monday to Friday, 3 times')).toBeVisible();
    await sheet.getByRole('button', { name: 'Save every date' }).click();
    await expect(lane.getByRole('button', { name: /^Knots/ })).toHaveCount(0);
  });
});

test('what others do is on the open board at once, and the one who types chooses, field by field', async ({
  page,
  playwright,
  baseURL,
}) => {
  const event = await prepare(page.request).event(calendar, 'Mast day', TUESDAY);
  await openPlan(page, WEEK);
  const owen = await playwright.request.newContext({ baseURL });
  await owen.post('/api/session', { data: { email: 'owen.tarbell@lanternfell.example', password: PASSWORD } });
  await prepare(owen).event(calendar, 'Owen’s keel talk', TUESDAY);
  await expect(page.getByRole('button', { name: /^Owen’s keel talk/ })).toBeVisible();
  await owen.dispose();

  await page.getByRole('button', { name: /^Mast day/ }).click();
  const sheet = page.getByRole('complementary', { name: 'Mast day' });
  await sheet.getByLabel('Title', { exact: true }).fill('Mast day (mine)');

  const saved = await (await page.request.get(`/api/events/${event.id}`)).json();
  await page.request.put(`/api/events/${event.id}`, {
    data: { ...saved, title: 'Mast day (theirs)', place: 'Slip 2' },
  });

  await expect(sheet.getByRole('alert')).toContainText('theirs: Mast day (theirs)');
  await expect(sheet.getByLabel('Title', { exact: true })).toHaveValue('Mast day (mine)');
  // What only the other changed comes in by itself.
  await expect(sheet.getByLabel('Place')).toHaveValue('Slip 2');
  await expect(sheet.getByRole('button', { name: 'Save' })).toBeDisabled();
  await sheet.getByRole('button', { name: 'Keep mine' }).click();
  await sheet.getByRole('button', { name: 'Save' }).click();
  await expect(page.getByRole('button', { name: /^Mast day \(mine\)/ })).toBeVisible();
});

test('what a line may mean as well is said, and chosen by a key or a press; the choice holds for the next line', async ({
  page,
}) => {
  // Somebody whose choices no other test sees.
  await signIn(page, 'tomas.reed@lanternfell.example');
  await page.request.put('/api/me/settings', { data: {} });
  calendar = await prepare(page.request).calendar(fresh('Doubts'));
  await openPlan(page, WEEK, 'tomas.reed@lanternfell.example');
  const add = page.getByRole('button', { name: `Add to ${calendar.title} on Tuesday 11 March` });
  const line = page.getByRole('textbox', { name: `New event in ${calendar.title}` });
  const understood = page.getByRole('list', { name: 'Understood as' });
  await add.click();
  await line.fill('Gym 6-7');
  await expect(understood).toContainText('18:00–19:00');
  const doubts = page.getByRole('list', { name: 'In doubt' });
  await expect(doubts).toContainText('“6-7”: morning or evening?');
  await line.press('Tab');
  await expect(doubts.getByRole('button', { name: '06:00-07:00', exact: true })).toBeFocused();
  await page.keyboard.press('Enter');
  await expect(line).toHaveValue('Gym 06:00-07:00');
  await expect(line).toBeFocused();
  await expect(understood).toContainText('6:00–7:00');
  // The next line is taken so without being asked.
  await line.fill('Swim 6-7');
  await expect(understood).toContainText('Swim');
  await expect(understood).toContainText('6:00–7:00');
  await expect(doubts).toHaveCount(0);
  // A day that its month does not have is said while it is typed, and nothing is lost of a line that is too long.
  await line.fill('Party 31 Nov');
  await expect(page.getByRole('alert')).toContainText('The month has fewer days');
  await line.fill('Long '.repeat(200));
  await expect(page.getByRole('alert')).toContainText('too long');
  await expect(line).toHaveValue('Long '.repeat(200));
  // Several times are several events, and are shown before they are added.
  await line.fill('Rope test Thu 13 Mar 4-8pm & Fri 14 Mar 9-12');
  await page.getByRole('button', { name: 'Add 2 events' }).click();
  await expect(page.getByRole('button', { name: /^Rope test, Thursday/ })).toBeVisible();
  await expect(page.getByRole('button', { name: /^Rope test, Friday/ })).toBeVisible();
  // Part of the title, by a press of the mouse.
  await add.click();
  await line.fill('Tryouts 3-4');
  await doubts.getByRole('button', { name: 'part of the title' }).click();
  await expect(understood.getByRole('button', { name: 'Tryouts 3-4' })).toBeVisible();
  await line.press('Escape');
  await page.goto('/account');
  await page.getByRole('button', { name: 'Forget what “6-7” means' }).click();
  await expect(page.getByRole('button', { name: 'Forget what “6-7” means' })).toHaveCount(0);
  await page.getByRole('button', { name: 'Forget what “3-4” means' }).click();
  await expect(page.getByRole('heading', { name: 'What you mean' })).toHaveCount(0);
});

test('a half-typed line stays after a reload, and through a lost connection that is told', async ({
  page,
  context,
}) => {
  await openPlan(page, WEEK);
  const add = page.getByRole('button', { name: `Add to ${calendar.title} on Tuesday 11 March` });
  const line = page.getByRole('textbox', { name: `New event in ${calendar.title}` });
  await add.click();
  await line.fill('Storm lantern');
  await page.reload();
  await add.click();
  await expect(line).toHaveValue('Storm lantern');
  await context.setOffline(true);
  await page.keyboard.press('Enter');
  await expect(page.getByRole('alert')).toBeVisible();
  await expect(page.getByText('The server cannot be reached.').first()).toBeVisible();
  await expect(line).toHaveValue('Storm lantern');
  await context.setOffline(false);
  await line.press('Enter');
  await expect(page.getByRole('button', { name: /^Storm lantern, Tuesday/ })).toBeVisible();
});

test('steps are undone after a reload too; the history tells who did what, and the bin gives back', async ({
  page: administrator,
  browser,
}) => {
  // Somebody whose steps no other test makes: the last one is taken back, whatever it was.
  const page = await invitedPerson(administrator, browser, 'Nora Keel');
  calendar = await prepare(page.request).calendar(fresh('Own steps'));
  await prepare(page.request).event(calendar, 'Rudder fitting', TUESDAY);
  await openOwnPlan(page, WEEK);
  const lane = page.getByRole('group', { name: calendar.title, exact: true });
  await lane.getByRole('button', { name: /^Rudder fitting/ }).click();
  const sheet = page.getByRole('complementary', { name: 'Rudder fitting' });
  await sheet.getByLabel('Place').fill('Shed C');
  await sheet.getByRole('button', { name: 'Save' }).click();
  await expect(lane.getByRole('button', { name: /^Rudder fitting, .*Shed C/ })).toBeVisible();
  await sheet.getByText('Who changed what').click();
  const history = sheet.getByRole('region', { name: 'History' });
  await expect(history).toContainText('Nora Keel');
  await expect(history).toContainText('Place: Slip 1 → Shed C');

  await page.reload();
  await lane.getByRole('button', { name: /^Rudder fitting/ }).focus();
  await page.keyboard.press('Control+z');
  await expect(lane.getByRole('button', { name: /^Rudder fitting, .*Slip 1/ })).toBeVisible();

  await lane.getByRole('button', { name: /^Rudder fitting/ }).click();
  await sheet.getByRole('button', { name: 'Delete' }).click();
  await expect(lane.getByRole('button', { name: /^Rudder fitting/ })).toHaveCount(0);
  await page.goto('/bin');
  await page.getByRole('button', { name: 'Take Rudder fitting out of the bin' }).first().click();
  await openOwnPlan(page, WEEK);
  await expect(lane.getByRole('button', { name: /^Rudder fitting/ })).toBeVisible();
  await page.context().close();
});

test('what is typed into a sheet is still there after a reload, and after another sheet', async ({ page }) => {
  await prepare(page.request).event(calendar, 'Keel bolts', TUESDAY);
  await prepare(page.request).event(calendar, 'Rivets', TUESDAY);
  await openPlan(page, WEEK);
  const lane = page.getByRole('group', { name: calendar.title, exact: true });
  await lane.getByRole('button', { name: /^Keel bolts/ }).click();
  const sheet = page.getByRole('complementary', { name: 'Keel bolts' });
  await sheet.getByRole('textbox', { name: 'Details' }).fill('Bronze, not iron');
  await lane.getByRole('button', { name: /^Rivets/ }).click();
  await expect(page.getByRole('complementary', { name: 'Rivets' })).toBeVisible();
  await lane.getByRole('button', { name: /^Keel bolts/ }).click();
  await expect(sheet.getByRole('textbox', { name: 'Details' })).toHaveText('Bronze, not iron');
  await page.reload();
  await expect(sheet.getByRole('textbox', { name: 'Details' })).toHaveText('Bronze, not iron');
  await sheet.getByRole('button', { name: 'Save' }).click();
  await expect(page.getByText('“Keel bolts” is changed.')).toBeVisible();
  await page.reload();
  await expect(sheet.getByRole('button', { name: 'Delete' })).toBeVisible();
});
