import { expect, it } from 'vitest';
import { CalendarSheet } from '../../src/calendar/CalendarSheet';
import type { Calendar, CalendarInput } from '../../src/shared/api/client';
import { calendarOf } from '../samples';
import { answer } from './server';
import { stage } from './stage';

it('what another keeper changes comes into the sheet, and is not written over by what is typed', async () => {
  let kept = calendarOf({ title: 'Rigging 2', description: 'Ropes', version: 1 });
  answer('GET /api/zones', () => ['America/Halifax']);
  answer('GET /api/people', () => ({ people: [], groups: [], invitations: [] }));
  answer(`GET /api/calendars/${kept.id}/roles`, () => []);
  answer<CalendarInput>(`PUT /api/calendars/${kept.id}`, (input) => {
    if (input.version !== kept.version)
      return Response.json({ code: 'stale_version', detail: '', status: 409, current: kept }, { status: 409 });
    kept = { ...kept, ...input, version: kept.version + 1 } as Calendar;
    return kept;
  });
  const others = (change: Partial<Calendar>) => (kept = { ...kept, ...change, version: kept.version + 1 });
  const sheet = () => (
    <CalendarSheet calendar={kept} calendars={[kept]} zone="" onClose={() => undefined} onMade={() => undefined} />
  );
  const screen = await stage(sheet());
  const title = screen.getByLabelText('Name of the calendar');
  const about = screen.getByLabelText('What the calendar is for');
  const save = screen.getByRole('button', { name: /^Save/ });

  // Told of before it is saved.
  await title.fill('Rigging two');
  others({ description: 'Ropes and blocks' });
  await screen.again(sheet());
  await expect.element(about).toHaveValue('Ropes and blocks');
  await expect.element(title).toHaveValue('Rigging two');
  await save.click();
  await expect.poll(() => [kept.title, kept.description]).toEqual(['Rigging two', 'Ropes and blocks']);
  await screen.again(sheet());
  await expect.element(save).not.toBeInTheDocument();

  // Not told of yet.
  others({ description: 'Ropes, blocks and masts' });
  await title.fill('Rigging');
  await save.click();
  await expect.poll(() => [kept.title, kept.description]).toEqual(['Rigging', 'Ropes, blocks and masts']);
  await expect.element(screen.getByRole('alert')).not.toBeInTheDocument();
});

it('what is typed stays when the calendar is put in the bin meanwhile, and is saved when it is out again', async () => {
  const kept = calendarOf({ title: 'Rigging 2', description: '' });
  answer('GET /api/zones', () => ['America/Halifax']);
  answer('GET /api/people', () => ({ people: [], groups: [], invitations: [] }));
  answer(`GET /api/calendars/${kept.id}/roles`, () => []);
  const back = answer(`POST /api/calendars/${kept.id}/restore`, () => kept);
  const sheet = (isGone: boolean, of = kept) => (
    <CalendarSheet
      calendar={of}
      isGone={isGone}
      calendars={[of]}
      zone=""
      onClose={() => undefined}
      onMade={() => undefined}
    />
  );
  const screen = await stage(sheet(false));
  await screen.getByLabelText('What the calendar is for').fill('Ropes');
  await screen.again(sheet(true));
  await expect.element(screen.getByRole('alert')).toBeVisible();
  const save = screen.getByRole('button', { name: /^Save/ });
  await expect.element(save).toBeDisabled();
  await screen.getByRole('button', { name: 'Take it out of the bin' }).click();
  await expect.poll(() => back.length).toBe(1);
  await screen.again(sheet(false));
  await expect.element(screen.getByLabelText('What the calendar is for')).toHaveValue('Ropes');
  await expect.element(save).toBeEnabled();

  // Whoever does not keep it is told, and can do nothing about it.
  await screen.again(sheet(true, { ...kept, role: 'reader' }));
  await expect.element(screen.getByRole('alert')).toBeVisible();
  await expect.element(screen.getByRole('button', { name: 'Take it out of the bin' })).not.toBeInTheDocument();
});

it('what is chosen of who gets what is seen at once, and the next is chosen when it holds', async () => {
  let kept = calendarOf({ reach: { members: 'everything', linkHolders: 'everything', everyone: 'everything' } });
  answer('GET /api/zones', () => ['America/Halifax']);
  answer('GET /api/people', () => ({ people: [], groups: [], invitations: [] }));
  answer(`GET /api/calendars/${kept.id}/roles`, () => []);
  const holds: (() => void)[] = [];
  const held = () => new Promise<void>((go) => holds.push(go));
  answer<{ reach: Calendar['reach']; audience: keyof Calendar['reach']; detail: string }>(
    'POST /api/reach/opened',
    async ({ reach, audience, detail }) => {
      await held();
      return { reach: { ...reach, [audience]: detail }, widest: null };
    },
  );
  answer<Calendar['reach']>(`PUT /api/calendars/${kept.id}/reach`, async ({ members, linkHolders, everyone }) => {
    await held();
    kept = { ...kept, reach: { members, linkHolders, everyone }, version: kept.version + 1 };
    return kept;
  });
  const sheet = () => (
    <CalendarSheet calendar={kept} calendars={[kept]} zone="" onClose={() => undefined} onMade={() => undefined} />
  );
  const screen = await stage(sheet());
  const of = (who: string) => screen.getByLabelText(`What ${who} get of the calendar`);
  await of('Everyone').selectOptions('nothing');
  for (let step = 1; step <= 2; step++) {
    await expect.poll(() => holds.length).toBe(step);
    await expect.element(of('Everyone')).toHaveValue('nothing');
    await expect.element(of('Link holders')).toBeDisabled();
    holds.at(-1)?.();
  }
  await expect.element(of('Link holders')).toBeEnabled();
  await screen.again(sheet());
  await of('Link holders').selectOptions('timesOnly');
  await expect.poll(() => holds.length).toBe(3);
  holds.at(-1)?.();
  await expect.poll(() => holds.length).toBe(4);
  holds.at(-1)?.();
  await expect.poll(() => kept.reach).toEqual({ members: 'everything', linkHolders: 'timesOnly', everyone: 'nothing' });
});
