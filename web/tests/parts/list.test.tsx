import { userEvent } from 'vitest/browser';
import { expect, it } from 'vitest';
import type { Board } from '../../src/shared/api/client';
import { List } from '../../src/board/views/List';
import { addDays } from '../../src/shared/dates';
import { setSight } from '../../src/shared/data/sight';
import { calendarOf, occurrenceOf } from '../samples';
import { answer } from './server';
import { stage } from './stage';

const MONDAY = '2026-11-23';
const on = (days: number, title: string, change: Partial<Board['occurrences'][number]> = {}) => {
  const day = addDays(MONDAY, days);
  return occurrenceOf({
    eventId: title,
    title,
    date: `${day}T09:00:00`,
    start: `${day}T09:00:00`,
    end: `${day}T10:00:00`,
    firstDay: day,
    lastDay: day,
    ...change,
  });
};

const data: Board = {
  from: MONDAY,
  to: addDays(MONDAY, 21),
  zone: 'America/Halifax',
  days: [],
  calendars: [calendarOf(), calendarOf({ id: 'd', title: 'Boathouse', mark: 2 })],
  occurrences: [
    on(1, 'Rope order', { tags: ['rope'], isDraft: true }),
    on(2, 'Tar kettle', { calendarId: 'd', place: 'Slip 1' }),
    ...[3, 10, 17].map((day) => on(day, 'Bilge watch', { isSeries: true })),
  ],
};

const list = async (days = 21) => {
  const screen = await stage(
    <List
      data={data}
      calendars={data.calendars}
      from={MONDAY}
      days={days}
      today={MONDAY}
      chosen={null}
      onChoose={() => undefined}
      onSpan={() => undefined}
    />,
  );
  const shown = () =>
    screen
      .getByRole('button', { name: /^(Rope|Tar|Bilge)/ })
      .elements()
      .map((e) => e.textContent);
  return { screen, shown };
};

it('is sorted by any column, both ways', async () => {
  const { screen, shown } = await list();
  await expect.element(screen.getByText('5 dates', { exact: true })).toBeVisible();
  const bilges = Array.from({ length: 3 }, () => 'Bilge watch');
  expect(shown()).toEqual(['Rope order', 'Tar kettle', ...bilges]);
  const what = screen.getByRole('columnheader', { name: 'What' });
  await screen.getByRole('button', { name: 'What' }).click();
  await expect.element(what).toHaveAttribute('aria-sort', 'ascending');
  expect(shown()).toEqual([...bilges, 'Rope order', 'Tar kettle']);
  await screen.getByRole('button', { name: 'What ↑' }).click();
  await expect.element(what).toHaveAttribute('aria-sort', 'descending');
  expect(shown()).toEqual(['Tar kettle', 'Rope order', ...bilges]);
  await screen.getByRole('button', { name: 'Calendar', exact: true }).click();
  expect(shown()).toEqual(['Tar kettle', 'Rope order', ...bilges]);
});

it('is narrowed by what is in it, and says when nothing is left', async () => {
  const { screen, shown } = await list();
  const words = screen.getByRole('searchbox', { name: 'Words in it' });
  await screen.getByRole('combobox', { name: 'all kinds' }).selectOptions('drafts');
  await expect.element(screen.getByText('1 date', { exact: true })).toBeVisible();
  expect(shown()).toEqual(['Rope order']);
  await screen.getByRole('combobox', { name: 'all kinds' }).selectOptions('');
  await userEvent.fill(words, 'bilge');
  await expect.element(screen.getByText('3 dates', { exact: true })).toBeVisible();
  await userEvent.fill(words, '');
  await screen.getByRole('combobox', { name: 'any calendar' }).selectOptions('Boathouse');
  await expect.element(screen.getByText('1 date', { exact: true })).toBeVisible();
  expect(shown()).toEqual(['Tar kettle']);
  await userEvent.fill(words, 'kraken');
  await expect.element(screen.getByText('No date is like that.')).toBeVisible();
  await screen.getByRole('button', { name: 'Show all' }).click();
  await expect.element(screen.getByText('5 dates', { exact: true })).toBeVisible();
  await expect.element(words).toHaveValue('');
});

it('shows what lies in its days, and chooses all of what it shows', async () => {
  const { screen } = await list(14);
  await expect.element(screen.getByText('4 dates', { exact: true })).toBeVisible();
  await screen.getByRole('checkbox', { name: 'Choose all' }).click();
  await expect.element(screen.getByText('4 chosen')).toBeVisible();
  await screen.getByRole('checkbox', { name: 'Choose Tar kettle, Wednesday 25 November' }).click();
  await expect.element(screen.getByText('3 chosen')).toBeVisible();
  await expect.element(screen.getByRole('checkbox', { name: 'Choose all' })).not.toBeChecked();
  // What is no more in sight is not changed.
  await screen.getByRole('combobox', { name: 'any tag' }).selectOptions('#rope');
  await expect.element(screen.getByText('1 chosen')).toBeVisible();
});

it('what was moved out of sight can be followed to its first date, and what was left as it is leads nowhere', async () => {
  const { screen } = await list();
  answer('POST /api/events/bulk', () => ({
    changed: [],
    left: [{ eventId: 'Rope order', code: 'not_yours', message: '' }],
  }));
  setSight({ from: MONDAY, to: addDays(MONDAY, 21) });
  for (const name of ['Rope order', 'Tar kettle'])
    await screen.getByRole('checkbox', { name: new RegExp(name) }).click();
  await userEvent.fill(screen.getByRole('spinbutton', { name: 'Days later' }), '70');
  await screen.getByRole('button', { name: 'Do it for 2 dates' }).click();
  await expect.element(screen.getByText('1 date is changed.')).toBeVisible();
  // Of the two the later one was moved: from 25 November, by ten weeks.
  const way = screen.getByRole('link', { name: 'See them from Wednesday 3 February on' });
  await expect.element(way).toBeVisible();
  expect(new URL((way.element() as HTMLAnchorElement).href).searchParams.get('from')).toBe('2027-02-01');
  setSight(null);
});
