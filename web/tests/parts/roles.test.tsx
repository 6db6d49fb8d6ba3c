import { expect, it } from 'vitest';
import { page } from 'vitest/browser';
import { Roles } from '../../src/calendar/Roles';
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
  arrive();
  await expect.element(page.getByRole('alert')).toHaveTextContent('Somebody has to keep the calendar.');
  expect(asked.map((a) => a.role)).toEqual(['proposer', null]);
  await expect.element(page.getByLabelText('Role of Riggers')).toHaveValue('proposer');
  await expect.element(page.getByRole('alert')).toBeVisible();
});
