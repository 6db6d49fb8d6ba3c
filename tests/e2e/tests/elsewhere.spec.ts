import { execFileSync } from 'node:child_process';
import { expect, type Page } from '@playwright/test';
import ICAL from 'ical.js';
import { site } from '../playwright.config';
import { addDays, fitsTheWidth, fresh, freshKey, openPlan, prepare, signIn, test, violations } from '../support/valtro';

const TOMAS = 'tomas.reed@lanternfell.example';

const ics = (...events: [uid: string, title: string, day: string][]) =>
  `BEGIN:VCALENDAR\r\nX-WR-CALNAME:Old program\r\n${events
    .map(
      ([uid, title, day]) =>
        `BEGIN:VEVENT\r\nUID:${uid}\r\nSUMMARY:${title}\r\nDTSTART;VALUE=DATE:${day.replaceAll('-', '')}\r\nEND:VEVENT\r\n`,
    )
    .join('')}END:VCALENDAR\r\n`;

const lay = (page: Page, name: string, text: string) =>
  page.locator('input[type=file]').setInputFiles({ name, mimeType: 'text/plain', buffer: Buffer.from(text) });

test('a file is dropped, looked at, brought in, undone, and known when it comes again', async ({ page }) => {
  await signIn(page, TOMAS);
  const to = prepare(page.request);
  const own = await to.calendar(fresh('Brought in'));
  const day = addDays(await to.today(), 3);
  const [first, second] = [fresh('Open rehearsal'), fresh('Rope sale')];
  await page.goto('/elsewhere');
  // Dropped as a hand would.
  const data = await page.evaluateHandle(
    ([text]) => {
      const transfer = new DataTransfer();
      transfer.items.add(new File([text ?? ''], 'autumn.ics', { type: 'text/calendar' }));
      return transfer;
    },
    [ics([first, first, day], [second, second, addDays(day, 1)])],
  );
  await page.getByText('Drop a file here').dispatchEvent('drop', { dataTransfer: data });
  await expect(page.getByRole('heading', { name: /autumn\.ics/ })).toBeVisible();
  // Nothing comes anywhere by itself.
  await expect(page.getByRole('button', { name: 'Bring in 0 events' })).toBeDisabled();
  await page.getByLabel('Into the calendar').selectOption(own.title);
  await expect(page.getByRole('row', { name: new RegExp(first) })).toContainText('comes');
  await page.getByRole('checkbox', { name: `Take ${second}` }).uncheck();
  await page.getByRole('button', { name: 'Bring in 1 event' }).click();
  await expect(page.getByRole('button', { name: 'Bring in another file' })).toBeVisible();
  await expect(page.getByRole('status').filter({ hasText: '1 new · 1 left' })).toBeVisible();
  // The record says what came from where.
  await expect(page.getByRole('listitem').filter({ hasText: 'autumn.ics' }).first()).toContainText('Tomas Reed');

  // The same file again: what came is the same, what was left can come now.
  await page.getByRole('button', { name: 'Bring in another file' }).click();
  await lay(page, 'autumn.ics', ics([first, first, day], [second, second, addDays(day, 1)]));
  await page.getByLabel('Into the calendar').selectOption(own.title);
  await expect(page.getByRole('row', { name: new RegExp(first) })).toContainText('is the same');
  await page.getByRole('button', { name: 'Bring in 1 event' }).click();
  await expect(page.getByRole('button', { name: 'Bring in another file' })).toBeVisible();
  await expect(page.getByRole('status').filter({ hasText: '1 new · 1 the same' })).toBeVisible();
  const titles = async () => {
    const answer = await page.request.get(`/api/board?from=${day}&to=${addDays(day, 3)}`);
    return ((await answer.json()) as { occurrences: { title: string }[] }).occurrences.map((o) => o.title);
  };
  expect(await titles()).toEqual(expect.arrayContaining([first, second]));
  await page.getByRole('button', { name: 'Undo', exact: true }).click();
  await expect.poll(titles).not.toContain(second);
  expect(await titles()).toContain(first);
});

test('cells that are pasted come by their columns, and each guess can be corrected', async ({ page }) => {
  await signIn(page);
  const to = prepare(page.request);
  const own = await to.calendar(fresh('Pasted'));
  const [title, other] = [fresh('Knot evening'), fresh('Star night')];
  const day = addDays(await to.today(), 9);
  await page.goto('/elsewhere');
  await expect(page.getByText('Drop a file here')).toBeVisible();
  await page.evaluate(
    ([text]) => {
      const clipboardData = new DataTransfer();
      clipboardData.setData('text/plain', text ?? '');
      document.body.dispatchEvent(new ClipboardEvent('paste', { clipboardData, bubbles: true, cancelable: true }));
    },
    [`Wer\tWas\tWann\nMarit\t${title}\t${day}\nOwen\t${other}\t${day}\nNobody\tSome day\tsoon`],
  );
  await expect(page.getByRole('heading', { name: /pasted\.tsv/ })).toBeVisible();
  await expect(page.getByText('rows without a readable date (1)')).toBeVisible();
  await page.getByText('What the columns say').click();
  await page.getByLabel('Wer is').selectOption('nothing');
  await page.getByLabel('Was is').selectOption('title');
  await page.getByLabel('Into the calendar').selectOption(own.title);
  await expect(page.getByRole('row', { name: new RegExp(title) })).toContainText('comes');
  expect(await violations(page, ['.elsewhere'])).toEqual([]);
  await page.setViewportSize({ width: 390, height: 844 });
  await fitsTheWidth(page);
  await page.getByRole('button', { name: 'Bring in 2 events' }).click();
  await expect(page.getByRole('button', { name: 'Bring in another file' })).toBeVisible();
  await expect(page.getByRole('status').filter({ hasText: '2 new' })).toBeVisible();
});

test('what cannot be read says so, and nothing is kept of it', async ({ page }) => {
  await signIn(page);
  await page.goto('/elsewhere');
  await lay(page, 'page.ics', '<!doctype html><title>Calendar</title>');
  await expect(page.getByRole('alert')).toContainText('This is a web page, not a calendar.');
  await page.getByLabel('Follow an address').fill('http://127.0.0.1:1/x.ics');
  await page.getByRole('button', { name: 'Look at it' }).click();
  await expect(page.getByRole('alert').filter({ hasText: 'inside of a network' })).toBeVisible();
  // What was typed is still there.
  await expect(page.getByLabel('Follow an address')).toHaveValue('http://127.0.0.1:1/x.ics');
});

test('what is due in a course is followed, sorted into its class, and a moved date is on the family’s page', async ({
  page,
}) => {
  await signIn(page);
  const to = prepare(page.request);
  const own = await to.open(await to.calendar(fresh('Rigging class')));
  const key = freshKey('due');
  await to.publication(key, own);
  const due = addDays(await to.today(), 4);
  const essay = fresh('Essay');
  // The platform's side: a teacher adds what is due.
  await page.goto(`${site}/platform`);
  const course = page.getByRole('region', { name: 'Rigging 2' });
  await course.getByLabel('New assignment').fill(essay);
  await course.getByLabel('Due', { exact: true }).last().fill(`${due}T15:00`);
  await course.getByRole('button', { name: 'Add to Rigging 2' }).click();
  await expect(course.getByRole('rowheader', { name: essay })).toBeVisible();

  await page.goto('/elsewhere');
  await page.getByLabel('Follow an address').fill('courses.lanternfell.example/platform/feeds/all.ics');
  await page.getByRole('button', { name: 'Look at it' }).click();
  const found = page.getByRole('region', { name: 'What the address gives' });
  await expect(found).toContainText(essay);
  const lane = fresh('Due dates');
  await found.getByLabel('Its lane is called').fill(lane);
  await found.getByRole('button', { name: 'Follow', exact: true }).click();
  await expect(page.getByRole('heading', { name: lane })).toBeVisible();
  await expect(page.getByText(/\d+ say \[Rigging 2\]/)).toBeVisible();
  expect(await violations(page, ['.elsewhere'])).toEqual([]);

  // The rule is proposed, led to this class, and tried before it is kept.
  const rule = page.getByRole('group', { name: 'Rule 1' });
  await page.getByRole('button', { name: /(Put|Make a rule for) Rigging 2/ }).click();
  await rule.getByLabel('Stands in').selectOption(own.title);
  const tried = page.getByRole('list', { name: 'Where each event would stand' });
  await expect(tried.getByRole('listitem').filter({ hasText: essay })).toContainText(own.title);
  await page.getByRole('button', { name: 'Sort', exact: true }).click();
  const feed = async () => (await page.request.get(`/p/${key}/feed.ics`)).text();
  await expect.poll(feed).toContain(`SUMMARY:${essay}\r\n`);

  // It is moved there, read, and on the family's page.
  const source = page.url();
  await page.goto(`${site}/platform`);
  const moved = addDays(due, 1);
  const row = course.getByRole('row', { name: new RegExp(essay) });
  await row.getByLabel(`${essay} is due`).fill(`${moved}T15:00`);
  await row.getByRole('button', { name: 'Move' }).click();
  await page.goto(source);
  await page.getByRole('button', { name: `Read ${lane} now` }).click();
  await expect(page.getByText(new RegExp(`“${essay}” moved from`))).toBeVisible();
  await page.goto(`/p/${key}?view=list&date=${moved}`);
  await expect(page.getByText(essay).first()).toBeVisible();
  await expect.poll(feed).toContain(`${moved.replaceAll('-', '')}T150000`);

  // The sheet says where it comes from; followed no more, what came stays.
  await openPlan(page, `?from=${moved}`);
  await page
    .getByRole('button', { name: new RegExp(essay) })
    .first()
    .click();
  await expect(page.getByRole('region', { name: 'Comes from' })).toContainText(lane);
  await page.goto(source);
  await page.getByRole('button', { name: 'Stop following …' }).click();
  await page.getByRole('button', { name: 'Keep them as our own' }).click();
  await expect(page.getByRole('heading', { name: 'From elsewhere' })).toBeVisible();
  expect(await feed()).toContain(`SUMMARY:${essay}\r\n`);
});

test('what is read of a file another reader finds in it too', () => {
  const rules = [
    'FREQ=DAILY;COUNT=9',
    'FREQ=DAILY;INTERVAL=3;UNTIL=20270110T090000',
    'FREQ=WEEKLY;BYDAY=MO,TH;COUNT=12',
    'FREQ=WEEKLY;INTERVAL=2;WKST=SU;BYDAY=SU,TU;COUNT=8',
    'FREQ=MONTHLY;BYDAY=-1FR;COUNT=7',
    'FREQ=MONTHLY;BYMONTHDAY=1,15;COUNT=9',
    'FREQ=MONTHLY;BYDAY=MO,TU,WE,TH,FR;BYSETPOS=-1;COUNT=6',
    'FREQ=YEARLY;BYMONTH=9,12;BYDAY=1MO;COUNT=4',
  ];
  const events = Array.from({ length: 48 }, (_, i) => {
    const day = addDays('2026-09-01', i * 2).replaceAll('-', '');
    const [start, rule] = [`${day}T0${i % 10}3000`, rules[i % rules.length]];
    return [
      'BEGIN:VEVENT',
      `UID:e${i}`,
      `SUMMARY:Event ${i}`,
      `DTSTART:${start}`,
      'DURATION:PT1H',
      `RRULE:${rule}`,
      ...(i % 3 === 0 ? [`EXDATE:${start}`] : []),
      ...(i % 4 === 0 ? [`RDATE:20261224T170000,20261226T170000`] : []),
      'END:VEVENT',
    ].join('\r\n');
  });
  const file = ['BEGIN:VCALENDAR', ...events, 'END:VCALENDAR', ''].join('\r\n');
  const ours = execFileSync('../../valtro', ['read', '--from', '2026-08-01', '--to', '2027-08-01'], { input: file })
    .toString()
    .split('\n')
    .filter((line) => line.startsWith('{"uid"'))
    .map((line) => JSON.parse(line) as { uid: string; starts: string[] });
  expect(ours).toHaveLength(events.length);
  for (const component of new ICAL.Component(ICAL.parse(file) as object[]).getAllSubcomponents('vevent')) {
    const event = new ICAL.Event(component);
    const [starts, dates] = [[] as string[], event.iterator()];
    for (let next = dates.next() as ICAL.Time | null; next; next = dates.next() as ICAL.Time | null)
      if (next.toString() >= '2026-08-01' && next.toString() < '2027-08-01') starts.push(next.toString());
    // A start its rule does not give is a date all the same (RFC 5545, 3.8.2.4); the other reader has only the rule's.
    const start = event.startDate.toString();
    const found = ours.find((o) => o.uid === event.uid)?.starts.filter((s) => s !== start || starts.includes(s));
    expect(found, event.uid).toEqual(starts);
  }
});
