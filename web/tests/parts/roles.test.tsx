import { expect, it } from 'vitest';
import { page } from 'vitest/browser';
import { Roles } from '../../src/calendar/Roles';
import { PeoplePage } from '../../src/people/PeoplePage';
import { calendarOf } from '../samples';
import { answer, problem } from './server';
import { stage } from './stage';

it('roles are changed one after the other, and what is refused stays said', async () => {
  const keeper = { personId: 'marit', groupId: null, name: 'Marit Quill', role: 'keeper' };
  const group = { personId: null, groupId: 'riggers', name: 'Riggers', role: 'editor' };
  answer('GET /api/calendars/rigging/roles', () => [keeper, group]);
  answer('GET /api/people', () => ({ people: [], groups: [], invitations: [], left: [] }));
  let arrive = () => {};
  const asked = answer<{ role: string | null }>('PUT /api/calendars/rigging/roles', async ({ role }) => {
    if (role === null) return problem(409, 'last_keeper');
    await new Promise<void>((go) => (arrive = go));
    return [keeper, { ...group, role }];
  });
  await stage(<Roles calendar={calendarOf({ id: 'rigging', role: 'keeper' })} />, 'calendar');
  await page.getByLabelText('Role of Riggers').selectOptions('proposer');
  await page.getByLabelText('Role of Marit Quill').selectOptions('no role');
  // The second waits for its turn.
  await expect.poll(() => asked.length).toBe(1);
  // What was chosen is seen from then on.
  await expect.element(page.getByLabelText('Role of Riggers')).toHaveValue('proposer');
  await expect.element(page.getByLabelText('Role of Marit Quill')).toHaveValue('');
  arrive();
  await expect.element(page.getByRole('alert')).toHaveTextContent('Somebody has to keep the calendar.');
  expect(asked.map((a) => a.role)).toEqual(['proposer', null]);
  await expect.element(page.getByLabelText('Role of Riggers')).toHaveValue('proposer');
  await expect.element(page.getByLabelText('Role of Marit Quill')).toHaveValue('keeper');
  await expect.element(page.getByRole('alert')).toBeVisible();
});

it('several people ticked quickly are all in the group', async () => {
  const people = ['Ines Harrow', 'Tomas Reed', 'Bea Lindqvist'].map((name) => ({
    id: name,
    name,
    email: '',
    role: 'member',
  }));
  let personIds: string[] = ['Samir Dole'];
  answer('GET /api/people', () => ({
    people,
    groups: [{ id: 'riggers', name: 'Riggers', personIds }],
    invitations: [],
    left: [],
  }));
  const asked = answer<{ comes: string[] }>('PUT /api/groups/riggers', async (input) => {
    await new Promise((go) => setTimeout(go, 10));
    personIds = [...personIds, ...input.comes];
    return new Response(null, { status: 204 });
  });
  await stage(<PeoplePage isAdministrator me="Marit Quill" />, 'people');
  await page.getByText('Riggers').click();
  for (const { name } of people) (page.getByRole('checkbox', { name }).element() as HTMLElement).click();
  for (const { name } of people) await expect.element(page.getByRole('checkbox', { name })).toBeChecked();
  await expect.poll(() => asked.length).toBe(3);
  await expect.poll(() => personIds).toEqual(['Samir Dole', ...people.map((p) => p.id)]);
});
