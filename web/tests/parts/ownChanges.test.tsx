import { useQuery, useQueryClient } from '@tanstack/react-query';
import { beforeEach, expect, it } from 'vitest';
import { api, type Board, type Occurrence } from '../../src/shared/api/client';
import type { ToldChange } from '../../src/shared/data/boardChanges';
import { useActions } from '../../src/shared/data/actions';
import { useLive } from '../../src/shared/data/useLive';
import { eventOf, occurrenceOf } from '../samples';
import { answer } from './server';
import { stage } from './stage';

const board: Board = {
  from: '2026-11-23',
  to: '2026-11-30',
  zone: 'America/Halifax',
  days: [],
  calendars: [],
  occurrences: ['Knots', 'Tar'].map((title) => occurrenceOf({ eventId: title, title, start: '2026-11-24T09:00:00' })),
};
const event = eventOf({ id: 'Knots' });

/** What a screen is told of, as a server would. */
class Stream extends EventTarget {
  static last: Stream;
  static readonly CLOSED = 2;
  readyState = 1;
  constructor() {
    super();
    Stream.last = this;
  }
  close() {
    this.readyState = 2;
  }
  tell(told: { isOwn: boolean; events: ToldChange[] | null }) {
    this.dispatchEvent(new MessageEvent('changed', { data: JSON.stringify(told) }));
  }
}

const told = (change: string): ToldChange => ({ change, ids: ['Knots'], first: '2026-11-24', last: '2026-11-24' });
const named = (title: string): Occurrence[] => [
  occurrenceOf({ eventId: 'Knots', title, start: '2026-11-24T09:00:00' }),
];

const Screen = ({ onReady }: { onReady: (given: ReturnType<typeof useActions>) => void }) => {
  useLive();
  const queries = useQueryClient();
  onReady(useActions());
  const { data } = useQuery({
    queryKey: ['board', 'w'],
    queryFn: () => api.board(board.from, board.to),
    staleTime: 60_000,
  });
  // An event is on the screen only while its sheet is open.
  queries.removeQueries({ queryKey: ['event'] });
  return (
    <ul>
      {data?.occurrences.map((o) => (
        <li key={o.eventId}>{o.title}</li>
      ))}
    </ul>
  );
};

let wholes: unknown[];
beforeEach(() => {
  globalThis.EventSource = Stream as unknown as typeof EventSource;
  wholes = answer('GET /api/board', () => board);
});

/** A board that stands, what can be done on it, and what it asked for since. */
const open = async () => {
  let actions!: ReturnType<typeof useActions>;
  const screen = await stage(<Screen onReady={(given) => (actions = given)} />);
  await expect.element(screen.getByText('Knots')).toBeVisible();
  expect(wholes).toHaveLength(1);
  return { screen, actions };
};
const done = (change: string | null, body: object = { event, added: [] }) =>
  Response.json(body, { headers: { 'Valtro-Step': 's', ...(change && { 'Valtro-Changed': `${change} Knots` }) } });
const edit = { ...event, added: [] } as unknown as Parameters<typeof api.editEvent>[1];

it('a change of one’s own is asked for alone, and not once more when it is told of', async () => {
  const { screen, actions } = await open();
  const asked = answer<{ change: string }>('GET /api/board/changed', () => named('Bowlines'));
  answer('PUT /api/events/Knots', () => {
    // The stream may be quicker than the answer.
    Stream.last.tell({ isOwn: true, events: [told('one')] });
    return done('one');
  });
  await actions.editEvent(event, edit);
  await expect.element(screen.getByText('Bowlines')).toBeVisible();
  await expect.element(screen.getByText('Tar')).toBeVisible();
  Stream.last.tell({ isOwn: true, events: [told('one')] });
  // What another screen of the same person does a moment later is none of this one's.
  answer<{ change: string }>('GET /api/board/changed', ({ change }) => {
    asked.push({ change });
    return named('Hitches');
  });
  Stream.last.tell({ isOwn: true, events: [told('two')] });
  await expect.element(screen.getByText('Hitches')).toBeVisible();
  expect(asked.map((a) => a.change)).toEqual(['one', 'two']);
  expect(wholes).toHaveLength(1);
});

it('of two changes right after each other the later one stands, whichever answer was slower', async () => {
  const { screen, actions } = await open();
  let go: () => void = () => undefined;
  const held = new Promise<void>((let_) => (go = let_));
  const asked = answer<{ change: string }>('GET /api/board/changed', async ({ change }) => {
    if (change === 'one') await held;
    return named(change === 'one' ? 'First' : 'Second');
  });
  answer('PUT /api/events/Knots', () => done('one'));
  const first = actions.editEvent(event, edit);
  await expect.poll(() => asked.length).toBe(1);
  answer(
    'DELETE /api/events/Knots',
    () => new Response(null, { status: 204, headers: { 'Valtro-Changed': 'two Knots' } }),
  );
  const second = actions.binEvent(event);
  go();
  await Promise.all([first, second]);
  await expect.element(screen.getByText('Second')).toBeVisible();
  expect(asked.map((a) => a.change)).toEqual(['one', 'two']);
  expect(wholes).toHaveLength(1);
});

it('where more than events may have changed, or they cannot be asked for, the whole board is', async () => {
  const { actions } = await open();
  answer('PUT /api/events/Knots', () => done(null));
  await actions.editEvent(event, edit);
  expect(wholes).toHaveLength(2);
  answer('PUT /api/events/Knots', () => done('three'));
  answer('GET /api/board/changed', () => new Response(null, { status: 503 }));
  await actions.editEvent(event, edit);
  expect(wholes).toHaveLength(3);
});
