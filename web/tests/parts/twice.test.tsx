import { userEvent } from 'vitest/browser';
import { expect, it } from 'vitest';
import { renderHook } from 'vitest-browser-react';
import { api, ApiProblem } from '../../src/shared/api/client';
import { useActions } from '../../src/shared/data/actions';
import { useInTurn } from '../../src/shared/useInTurn';
import { answer, problem } from './server';
import { stage } from './stage';

const calendar = { title: 'Loft', description: '', group: '', zone: 'America/Halifax', mark: 1, version: null };

it('what is pressed twice is done once, and both are told what became of it', async () => {
  const made = answer('POST /api/calendars', () => Response.json({ id: 'c' }, { headers: { 'Valtro-Step': 's' } }));
  const twice = await Promise.all([api.addCalendar(calendar), api.addCalendar(calendar)]);
  expect(twice.map((c) => c.id)).toEqual(['c', 'c']);
  expect(made).toHaveLength(1);
  // Another one, or the same later on, is meant.
  await Promise.all([api.addCalendar(calendar), api.addCalendar({ ...calendar, title: 'Shed' })]);
  expect(made).toHaveLength(3);
});

it('a refusal is told to both, and asked for again it is tried again', async () => {
  const asked = answer('POST /api/calendars', () => problem(422, 'title_missing'));
  const refused = await Promise.allSettled([api.addCalendar(calendar), api.addCalendar(calendar)]);
  expect(refused.map((r) => r.status === 'rejected' && (r.reason as ApiProblem).code)).toEqual(
    Array.from({ length: 2 }, () => 'title_missing'),
  );
  await expect(api.addCalendar(calendar)).rejects.toThrow();
  expect(asked).toHaveLength(2);
});

it('what is refused is told, also where nobody waits for it', async () => {
  answer('POST /api/events/e/restore', () => problem(422, 'limit_events'));
  const Bin = () => {
    const { restoreEvent } = useActions();
    return <button onClick={() => void restoreEvent('e', 'Knots')}>Take out</button>;
  };
  const screen = await stage(<Bin />);
  await screen.getByRole('button').click();
  await expect.element(screen.getByRole('status')).toHaveTextContent('Your school has as many events as it may.');
});

it('whoever goes back twice goes back two steps', async () => {
  const back = answer('POST /api/me/undo', () => ({ titles: [] }));
  await Promise.all([api.undo(), api.undo()]);
  expect(back).toHaveLength(2);
});

it('what is taken back while something is done is that, and one step after the other', async () => {
  let saved: () => void = () => undefined;
  const saving = new Promise<void>((done) => (saved = done));
  let isBack: () => void = () => undefined;
  const back = new Promise<void>((done) => (isBack = done));
  let nth = 0;
  answer('POST /api/calendars', async () => {
    nth++;
    if (nth === 2) await saving;
    return Response.json({ id: `c${nth}`, title: `Number ${nth}` }, { headers: { 'Valtro-Step': `step ${nth}` } });
  });
  const undone = answer<{ step: string }>('POST /api/me/undo', async () => {
    await back;
    return { titles: [] };
  });
  const Add = () => {
    const { addCalendar } = useActions();
    const add = (title: string) => void addCalendar({ ...calendar, title });
    return ['Loft', 'Shed'].map((title) => (
      <button key={title} onClick={() => add(title)}>
        {title}
      </button>
    ));
  };
  const screen = await stage(<Add />);
  await screen.getByRole('button', { name: 'Loft' }).click();
  await expect.element(screen.getByRole('status')).toHaveTextContent('Number 1');
  await screen.getByRole('button', { name: 'Shed' }).click();
  await userEvent.keyboard('{Control>}zz{/Control}');
  expect(undone).toEqual([]);
  saved();
  await expect.poll(() => undone.map((u) => u.step)).toEqual(['step 2']);
  await new Promise((done) => setTimeout(done));
  expect(undone).toHaveLength(1);
  isBack();
  await expect.poll(() => undone.map((u) => u.step)).toEqual(['step 2', 'step 1']);
});

it('what waits for its turn under a name is not done once more', async () => {
  const { result, act } = await renderHook(() => useInTurn());
  const done: string[] = [];
  const invite = (who: string) =>
    result.current.run(() => {
      done.push(who);
      return who === 'nobody' ? Promise.reject(new ApiProblem(422, 'email_malformed', '')) : Promise.resolve();
    }, who);
  const ask = async (...names: string[]) => {
    let went: boolean[] = [];
    await act(async () => {
      went = await Promise.all(names.map(invite));
    });
    return went;
  };
  expect(await ask('nora', 'nora', 'tove', 'nora')).toEqual([true, true, true, true]);
  expect(done).toEqual(['nora', 'tove']);
  expect(await ask('nobody', 'nobody')).toEqual([false, false]);
  expect(result.current.problem?.code).toBe('email_malformed');
  expect(await ask('nobody', 'nora')).toEqual([false, true]);
  expect(done).toEqual(['nora', 'tove', 'nobody', 'nobody', 'nora']);
});
