import { expect, it } from 'vitest';
import { page } from 'vitest/browser';
import { CalendarChoice } from '../../src/year/CalendarChoice';
import { calendarOf } from '../samples';
import { stage } from './stage';

it('each closure has calendars of its own to choose, also by their names', async () => {
  const chosen: [string, string[]][] = [];
  const calendars = [calendarOf({ id: 'r', title: 'Rigging 2' })];
  const of = (closure: string, now: string[]) => (
    <section aria-label={closure}>
      <CalendarChoice calendars={calendars} chosen={now} onChoose={(ids) => chosen.push([closure, ids])} />
    </section>
  );
  await stage(
    <>
      {of('Regatta', [])}
      {of('Storm', [])}
      {of('Launch', ['r'])}
    </>,
    'year',
  );
  for (const [closure, name] of [
    ['Storm', 'Rigging 2'],
    ['Launch', 'for the whole school'],
  ] as const) {
    const row = page.getByRole('region', { name: closure });
    (row.element().querySelector('summary') as HTMLElement).click();
    (row.getByText(name, { exact: true }).last().element() as HTMLElement).click();
  }
  expect(chosen).toEqual([
    ['Storm', ['r']],
    ['Launch', []],
  ]);
});
