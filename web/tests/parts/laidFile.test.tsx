import { userEvent } from 'vitest/browser';
import { expect, it } from 'vitest';
import type { BringingInput, LaidOut, Session } from '../../src/shared/api/client';
import { LaidFile } from '../../src/elsewhere/LaidFile';
import { calendarOf } from '../samples';
import { answer } from './server';
import { stage } from './stage';

const DAYS = ['2026-11-24', '2026-12-01', '2026-12-08'];

/** What a file of three events would do, by the bound that is set. */
const laidOut = ({ calendarId, to }: BringingInput): LaidOut => {
  const rows = DAYS.map((day): LaidOut['what']['rows'][number] => ({
    key: day,
    kind: !calendarId ? 'left' : to && day > to ? 'outside' : 'new',
    title: `Watch ${day}`,
    place: '',
    start: `${day}T00:00:00`,
    end: `${day}T00:00:00`,
    allDay: true,
    repeats: false,
    dates: 1,
    calendarId: calendarId ?? null,
    group: '',
    notes: [],
    own: [],
    closure: null,
    clashes: 0,
  }));
  const count = (kind: 'new' | 'outside' | 'left') => ({ kind, count: rows.filter((r) => r.kind === kind).length });
  const counts = [count('new'), count('outside'), count('left')].filter((c) => c.count > 0);
  return {
    id: 'f',
    name: 'watches.ics',
    size: 900,
    form: 'calendar',
    columns: null,
    what: { calendarName: '', groups: [], counts, left: [], rows, more: 0 },
  };
};

it('a bound that was just typed is read, and shown what it leaves, before anything comes', async () => {
  let say = () => {};
  answer<{ text: string }>('GET /api/typed', async () => {
    await new Promise<void>((go) => (say = go));
    return { day: '2026-12-02', clock: null, first: null };
  });
  answer<BringingInput>('POST /api/bringing/f/look', laidOut);
  const brought = answer<BringingInput>('POST /api/bringing/f', (given) => laidOut(given).what);
  const screen = await stage(
    <LaidFile
      id="f"
      first={laidOut({ letsGo: false })}
      calendars={[calendarOf({ id: 'c', title: 'Watches' })]}
      school={{ today: '2026-11-23' } as Session['school']}
      onClose={() => undefined}
    />,
    'elsewhere',
  );
  const bring = screen.getByRole('button', { name: /^Bring in/ });
  await expect.element(bring).toBeDisabled();
  await screen.getByRole('combobox', { name: 'Into' }).selectOptions('Watches');
  await expect.element(bring).toHaveTextContent('3');
  await screen.getByRole('button', { name: 'any day' }).last().click();
  // It leaves nothing before it is typed.
  await expect.element(bring).toHaveTextContent('3');
  await expect.element(bring).toBeEnabled();
  const bound = screen.getByRole('textbox');
  await userEvent.fill(bound, '2 dec');
  await bring.click();
  expect(brought).toEqual([]);
  say();
  // It is another file now than the one that was pressed for.
  await expect.element(bring).toHaveTextContent('2');
  await expect.element(bring).toBeEnabled();
  expect(brought).toEqual([]);
  await bring.click();
  await expect.poll(() => brought).toEqual([expect.objectContaining({ calendarId: 'c', to: '2026-12-02' })]);
});
