import { userEvent } from 'vitest/browser';
import { expect, it } from 'vitest';
import { renderHook } from 'vitest-browser-react';
import { CalendarSheet } from '../../src/calendar/CalendarSheet';
import { ListsPage } from '../../src/lists/ListsPage';
import type { CalendarInput, Lists } from '../../src/shared/api/client';
import { draftsOf } from '../../src/shared/data/draftStorage';
import { useKeptForm } from '../../src/shared/useKeptForm';
import { calendarOf } from '../samples';
import { answer } from './server';
import { stage } from './stage';

const held = () => {
  let go: () => void = () => undefined;
  const until = new Promise<void>((free) => (go = free));
  return { until, go };
};

it('what is typed while the lists are saved stands there after it, over what was saved', async () => {
  const saving = [held(), held()];
  const place = { id: null, capacity: null, address: '', latitude: null, longitude: null };
  const kept = {
    categories: [],
    places: [],
    testsADay: 0,
    noticeDays: 0,
    version: 1,
    maxFileMegabytes: 10,
    mapPattern: '',
  };
  const sent: Lists[] = answer<Lists>('PUT /api/lists', async (lists): Promise<Lists> => {
    await saving[sent.length - 1]?.until;
    return {
      ...lists,
      places: lists.places.map((p, i) => ({ ...p, id: p.id ?? `place ${i}` })),
      version: sent.length + 1,
    };
  });
  answer('GET /api/templates', () => []);
  const screen = await stage(<ListsPage />, 'lists');
  answer('GET /api/lists', () => kept);
  await screen.queries.invalidateQueries({ queryKey: ['lists'] });
  await screen.getByRole('button', { name: 'Add a place' }).click();
  const name = screen.getByRole('textbox', { name: 'Name' });
  await name.fill('Slip 2');
  const save = screen.getByRole('button', { name: 'Save the lists' });
  await save.click();
  await expect.poll(() => sent.length).toBe(1);
  await name.click();
  await userEvent.keyboard('{End} north');
  saving[0]?.go();
  await expect.element(save).toBeEnabled();
  await expect.element(name).toHaveValue('Slip 2 north');
  await save.click();
  await expect.poll(() => sent.length).toBe(2);
  saving[1]?.go();
  await expect.element(save).not.toBeInTheDocument();
  expect(sent.map((l) => [l.version, l.places])).toEqual([
    [1, [{ ...place, name: 'Slip 2' }]],
    [2, [{ ...place, id: 'place 0', name: 'Slip 2 north' }]],
  ]);
});

it('what is typed while something new is saved begins its own form, and leaves none for the next new one', async () => {
  draftsOf('somebody');
  const { result, act } = await renderHook(() => useKeptForm('year new', { name: '', version: 0 }));
  await act(() => result.current.type({ name: '2027', version: 0 }));
  const sent = result.current.draft;
  await act(() => result.current.type({ name: '2027/28', version: 0 }));
  await act(() => result.current.handOn('year y', { name: '2027', version: 1 }, sent));
  const own = await renderHook(() => useKeptForm('year y', { name: '2027', version: 1 }));
  expect(own.result.current).toMatchObject({ draft: { name: '2027/28', version: 1 }, isDirty: true });
  const next = await renderHook(() => useKeptForm('year new', { name: '', version: 0 }));
  expect(next.result.current).toMatchObject({ draft: { name: '' }, isDirty: false });
});

it('what is typed while a calendar is added stands in its sheet, and is saved there', async () => {
  const adding = held();
  const made = calendarOf({ title: 'Rigging', description: '', zone: 'America/Halifax', mark: 1 });
  answer('GET /api/zones', () => ['America/Halifax']);
  answer('GET /api/people', () => ({ people: [], groups: [], invitations: [] }));
  answer(`GET /api/calendars/${made.id}/roles`, () => []);
  answer('POST /api/calendars', async () => {
    await adding.until;
    return made;
  });
  const changed = answer<CalendarInput>(`PUT /api/calendars/${made.id}`, (input) => ({
    ...made,
    ...input,
    version: 2,
  }));
  let id = '';
  const sheet = (calendar: typeof made | null) => (
    <CalendarSheet
      calendar={calendar}
      calendars={calendar ? [calendar] : []}
      zone="America/Halifax"
      onClose={() => undefined}
      onMade={(of) => (id = of)}
    />
  );
  const screen = await stage(sheet(null));
  await screen.getByLabelText('Name of the calendar').fill('Rigging');
  await screen.getByRole('button', { name: 'Add calendar' }).click();
  await screen.getByLabelText('What the calendar is for').fill('Ropes');
  adding.go();
  await expect.poll(() => id).toBe(made.id);
  await screen.again(sheet(made));
  await expect.element(screen.getByLabelText('What the calendar is for')).toHaveValue('Ropes');
  await screen.getByRole('button', { name: /^Save/ }).click();
  await expect.poll(() => changed[0]).toMatchObject({ title: 'Rigging', description: 'Ropes', version: made.version });
});
