import { useState } from 'react';
import { userEvent } from 'vitest/browser';
import { beforeEach, expect, it } from 'vitest';
import { renderHook } from 'vitest-browser-react';
import type { EventInput, Fields, Shift } from '../../src/shared/api/client';
import { inputOf } from '../../src/shared/data/actions';
import { NO_SHIFT } from '../../src/board/gestures/shift';
import { addDays, dayOf } from '../../src/shared/dates';
import { useChosen } from '../../src/board/openSheet';
import { setSight } from '../../src/shared/data/sight';
import { CopySheet } from '../../src/event/CopySheet';
import { newDraft } from '../../src/event/draft/draft';
import { NewEventSheet, SavedEventSheet } from '../../src/event/EventSheet';
import { calendarOf, eventOf, occurrenceOf } from '../samples';
import { answer, problem } from './server';
import { stage } from './stage';

const calendar = calendarOf();
const series = eventOf({
  rule: { frequency: 'weekly', interval: 1, days: ['tuesday'], count: null, until: null },
});
const blank: EventInput = inputOf(series);
const occurrence = occurrenceOf({ isSeries: true, date: '2026-09-08T22:30:00' });

interface Asked {
  scope: string | null;
  was?: string;
  over?: EventInput;
  typed?: EventInput;
  shift?: Shift | null;
  moved?: Shift | null;
}

/** The server's fields in a test: what is typed stands, unless the test says otherwise. */
const fieldsOf = (say: (asked: Asked) => Partial<Fields> | Promise<Partial<Fields>> = () => ({})) =>
  answer<Asked>('POST /api/events/e/fields', async (asked) => ({
    event: series,
    scope: asked.scope ?? 'thisDate',
    blank,
    typed: asked.typed ?? blank,
    conflicts: [],
    ...(await say(asked)),
  }));

const sheet = (shift: Shift | null = null) => (
  <SavedEventSheet
    occurrence={occurrence}
    shift={shift}
    calendars={[calendar]}
    onClose={() => undefined}
    onDate={() => undefined}
    onCopy={() => undefined}
  />
);

beforeEach(() => {
  answer('GET /api/events/e', () => series);
  answer('GET /api/proposals/asked', () => []);
  answer('GET /api/school-years', () => []);
  answer('GET /api/templates', () => []);
  answer('POST /api/reach/event', () => ({ given: calendar.reach, own: null, shown: calendar.reach }));
  answer('POST /api/checks/event', () => ({ from: '2026-09-01', to: '2026-11-01', clashes: [] }));
  answer('POST /api/events/dates', () => problem(422, 'rule_malformed'));
  answer('POST /api/events/e/plan', () => problem(422, 'rule_malformed'));
});

it('what somebody else saved comes in under what is typed, and what both changed is chosen', async () => {
  const asked = fieldsOf(({ over }) =>
    over
      ? {
          event: { ...series, version: 4, place: 'Quay', description: '<p>Bring tar</p>' },
          blank: { ...blank, place: 'Quay', description: '<p>Bring tar</p>' },
          typed: { ...blank, place: 'Slip 1', description: '<p>Bring tar</p>' },
          conflicts: ['place'],
        }
      : {},
  );
  const screen = await stage(sheet(), 'board');
  const place = screen.getByRole('combobox', { name: 'Place' }).or(screen.getByRole('textbox', { name: 'Place' }));
  await userEvent.fill(place, 'Slip 1');
  screen.queries.setQueryData(['event', 'e'], { ...series, version: 4 });
  await expect.element(screen.getByText('theirs: Quay')).toBeVisible();
  expect(asked[1]).toMatchObject({ was: 'thisDate', over: { place: 'Loft 2' }, typed: { place: 'Slip 1' } });
  await expect.element(place).toHaveValue('Slip 1');
  await expect.element(screen.getByRole('textbox', { name: 'Details' })).toHaveTextContent('Bring tar');
  await screen.getByRole('button', { name: 'Take theirs' }).click();
  await expect.element(place).toHaveValue('Quay');
  await expect.element(screen.getByText('theirs: Quay')).not.toBeInTheDocument();
});

it('what is typed while the fields are filled for other dates goes along', async () => {
  let go: () => void = () => undefined;
  const held = new Promise<void>((done) => (go = done));
  const asked = fieldsOf(async ({ over }) => {
    if (over) await held;
    return {};
  });
  const screen = await stage(sheet(), 'board');
  const place = screen.getByRole('combobox', { name: 'Place' }).or(screen.getByRole('textbox', { name: 'Place' }));
  await userEvent.fill(place, 'Slip 1');
  await screen.getByRole('button', { name: 'Every date', exact: true }).click();
  await userEvent.fill(place, 'Slip 12');
  // What was pressed is seen at once, however long the fields take.
  await expect.element(screen.getByRole('button', { name: 'Save every date' })).toBeVisible();
  go();
  await expect
    .poll(() => asked.at(-1))
    .toMatchObject({ scope: 'everyDate', was: 'thisDate', typed: { place: 'Slip 12' } });
  await expect.element(screen.getByLabelText('First date', { exact: true })).toBeVisible();
  await expect.element(place).toHaveValue('Slip 12');
});

/** Moved on by days, as the server does it. */
const movedBy = ({ shift, moved, typed = blank }: Asked): Partial<Fields> => {
  const to = (time: string) => addDays(dayOf(time), (shift?.days ?? 0) - (moved?.days ?? 0)) + time.slice(10);
  return { typed: { ...typed, timing: { ...typed.timing, start: to(typed.timing.start), end: to(typed.timing.end) } } };
};

/** A sheet that is moved on the board while it is open, by so many days from where it is saved. */
const Moved = () => {
  const [days, setDays] = useState(0);
  return (
    <>
      <button onClick={() => setDays(days + 1)}>Move</button>
      {sheet(days ? { ...NO_SHIFT, days } : null)}
    </>
  );
};

it('what is chosen and typed while a move on the board comes in stands, and the move with it', async () => {
  let go: () => void = () => undefined;
  const held = new Promise<void>((done) => (go = done));
  const asked = fieldsOf(async (of) => {
    if (of.shift && !of.moved) await held;
    return movedBy(of);
  });
  const screen = await stage(<Moved />, 'board');
  const place = screen.getByRole('combobox', { name: 'Place' }).or(screen.getByRole('textbox', { name: 'Place' }));
  await userEvent.fill(place, 'Slip 1');
  await screen.getByRole('button', { name: 'Move' }).click();
  await expect.poll(() => asked.length).toBe(2);
  await screen.getByRole('button', { name: 'Every date', exact: true }).click();
  await userEvent.fill(place, 'Slip 12');
  // Somebody else saves just now.
  screen.queries.setQueryData(['event', 'e'], { ...series, version: 4 });
  go();
  const date = screen.getByLabelText('First date', { exact: true });
  await expect.poll(() => (date.element() as HTMLInputElement).value).toContain('2 Sep');
  await expect.element(place).toHaveValue('Slip 12');
  await expect.element(screen.getByRole('button', { name: 'Save every date' })).toBeVisible();
  // Moved on, it is moved by what is new.
  await screen.getByRole('button', { name: 'Move' }).click();
  await expect.poll(() => (date.element() as HTMLInputElement).value).toContain('3 Sep');
  expect(asked.at(-1)).toMatchObject({ shift: { days: 2 }, moved: { days: 1 }, typed: { place: 'Slip 12' } });
});

it('what is saved while a move comes in is saved moved, and not at all when it cannot come', async () => {
  let go: () => void = () => undefined;
  const held = new Promise<void>((done) => (go = done));
  let isRefused = true;
  fieldsOf(async (of) => {
    if (of.shift) await held;
    if (of.shift && isRefused) throw new Error('refused');
    return movedBy(of);
  });
  const saved = answer<EventInput>('PUT /api/events/e', () => ({ event: series, added: [] }));
  const screen = await stage(<Moved />, 'board');
  const place = screen.getByRole('combobox', { name: 'Place' }).or(screen.getByRole('textbox', { name: 'Place' }));
  await userEvent.fill(place, 'Slip 1');
  await screen.getByRole('button', { name: 'Move' }).click();
  const save = screen.getByRole('button', { name: 'Save this date' });
  await save.click();
  go();
  await expect.element(screen.getByRole('alert')).toBeVisible();
  expect(saved).toEqual([]);
  await expect.element(place).toHaveValue('Slip 1');

  isRefused = false;
  await save.click();
  await expect.poll(() => saved).toHaveLength(1);
  expect(saved[0]).toMatchObject({ place: 'Slip 1', timing: { start: '2026-09-02T22:30:00' } });
});

it('a refusal leaves what is typed, and says why', async () => {
  fieldsOf();
  answer('PUT /api/events/e', () => problem(422, 'date_calendar'));
  const screen = await stage(sheet(), 'board');
  const place = screen.getByRole('combobox', { name: 'Place' }).or(screen.getByRole('textbox', { name: 'Place' }));
  await userEvent.fill(place, 'Slip 1');
  await screen.getByRole('button', { name: 'Save this date' }).click();
  await expect.element(screen.getByText(/One date alone cannot go to another calendar/)).toBeVisible();
  await expect.element(place).toHaveValue('Slip 1');
});

it('a new event is added once, however quickly it is asked for again', async () => {
  let go: () => void = () => undefined;
  const held = new Promise<void>((free) => (go = free));
  const added = answer('POST /api/events', async () => {
    await held;
    return series;
  });
  let closed = 0;
  const draft = { ...newDraft('c', '2026-09-08'), title: 'Rope walk' };
  const screen = await stage(
    <NewEventSheet draft={draft} calendars={[calendar]} onClose={() => closed++} onGoOn={() => undefined} />,
    'board',
  );
  const title = screen.getByRole('textbox', { name: 'Title', exact: true });
  await title.click();
  await userEvent.keyboard('{Enter}{Enter}{Enter}');
  await expect.poll(() => added.length).toBeGreaterThan(0);
  await userEvent.keyboard('{Enter}');
  go();
  await expect.poll(() => closed).toBe(1);
  expect(added).toHaveLength(1);
});

it('what is typed while a new event is added is gone on with in its sheet', async () => {
  let go: () => void = () => undefined;
  const held = new Promise<void>((free) => (go = free));
  const added = answer<EventInput>('POST /api/events', async () => {
    await held;
    return eventOf({ title: 'Rope walk', place: '' });
  });
  const filled = fieldsOf(() => ({ event: eventOf({ title: 'Rope walk' }), scope: 'everyDate' }));
  answer('GET /api/events/e', () => eventOf({ title: 'Rope walk' }));
  const Board = () => {
    const { chosen, nth, choose, close, leadOn } = useChosen();
    return (
      <>
        <button
          onClick={() => choose({ kind: 'new-event', draft: { ...newDraft('c', '2026-09-01'), title: 'Rope walk' } })}
        >
          Open
        </button>
        {chosen?.kind === 'new-event' && (
          <NewEventSheet
            key={nth}
            draft={chosen.draft}
            calendars={[calendar]}
            onClose={close}
            onGoOn={(o) => leadOn({ kind: 'event', occurrence: o })}
          />
        )}
        {chosen?.kind === 'event' && (
          <SavedEventSheet
            occurrence={chosen.occurrence}
            shift={null}
            calendars={[calendar]}
            onClose={close}
            onDate={() => undefined}
            onCopy={() => undefined}
          />
        )}
      </>
    );
  };
  const screen = await stage(<Board />, 'board');
  await screen.getByRole('button', { name: 'Open' }).click();
  await screen.getByRole('button', { name: 'Add event' }).click();
  await expect.poll(() => added.length).toBe(1);
  const place = screen.getByLabelText('Place', { exact: true });
  await place.click();
  await userEvent.keyboard('Slip 2');
  go();
  await expect.element(screen.getByRole('button', { name: 'Save' })).toBeEnabled();
  expect(added[0]?.place).toBe('');
  expect([filled[0]?.over?.place, filled[0]?.typed?.place]).toEqual(['', 'Slip 2']);
  await expect.element(place).toHaveValue('Slip 2');
});

it('what was done in a sheet closes that one, and none that was opened meanwhile', async () => {
  let go: () => void = () => undefined;
  const held = new Promise<void>((free) => (go = free));
  const copied = answer('POST /api/proposals/copy/e', async () => {
    await held;
    return { event: series, proposal: null };
  });
  const Board = () => {
    const { chosen, nth, choose, close } = useChosen();
    return (
      <>
        <button onClick={() => choose({ kind: 'copy', occurrence, shift: null })}>Open</button>
        {chosen?.kind === 'copy' && (
          <CopySheet key={nth} occurrence={chosen.occurrence} shift={null} calendars={[calendar]} onClose={close} />
        )}
      </>
    );
  };
  const screen = await stage(<Board />, 'board');
  const copy = screen.getByRole('button', { name: 'Copy', exact: true });
  await screen.getByRole('button', { name: 'Open' }).click();
  await copy.click();
  await expect.element(copy).toBeDisabled();
  await screen.getByRole('button', { name: 'Open' }).click();
  await screen.getByRole('radio', { name: 'The whole series' }).click();
  go();
  await expect.element(screen.getByText('“Knots” is copied.')).toBeVisible();
  await expect.element(screen.getByRole('radio', { name: 'The whole series' })).toBeChecked();
  await copy.click();
  await expect.element(copy).not.toBeInTheDocument();
  expect(copied).toHaveLength(2);
});

it('what was saved for one date of a series closes no other that was opened meanwhile', async () => {
  const { result, act } = await renderHook(() => useChosen());
  const open = (date: string) =>
    act(() => result.current.choose({ kind: 'event', occurrence: { ...occurrence, date } }));
  const isOpen = () => result.current.chosen?.kind === 'event' && result.current.chosen.occurrence.date;
  await open('2031-03-13T18:00:00');
  const saved = result.current.close;
  await open('2031-03-11T18:00:00');
  await act(saved);
  expect(isOpen()).toBe('2031-03-11T18:00:00');
  // Chosen again, as when it was moved, it is the same sheet.
  const moved = result.current.close;
  await open('2031-03-11T18:00:00');
  await act(moved);
  expect(isOpen()).toBe(false);
});

it('a date that was moved out of sight can be followed, and one that stays in sight needs no way', async () => {
  const moved = { ...blank, timing: { ...blank.timing, start: '2026-10-20T22:30:00', end: '2026-10-21T00:15:00' } };
  fieldsOf(() => ({ blank: moved, typed: moved }));
  answer('PUT /api/events/e', () => ({ event: series, added: [] }));
  setSight({ from: '2026-10-19', to: '2026-10-26' });
  const screen = await stage(sheet(), 'board');
  const place = screen.getByRole('combobox', { name: 'Place' }).or(screen.getByRole('textbox', { name: 'Place' }));
  const save = screen.getByRole('button', { name: 'Save this date' });
  const way = screen.getByRole('link', { name: 'See it on Tuesday 20 October' });
  await userEvent.fill(place, 'Slip 1');
  await save.click();
  await expect.element(screen.getByText('“Knots” is changed.')).toBeVisible();
  expect(way.elements()).toEqual([]);

  setSight({ from: '2026-09-07', to: '2026-09-14' });
  await userEvent.fill(place, 'Slip 2');
  await save.click();
  await expect.element(way).toBeVisible();
  const to = new URL((way.element() as HTMLAnchorElement).href).searchParams;
  expect([to.get('from'), to.get('open')]).toEqual(['2026-10-19', 'e_2026-09-08T22:30:00']);
  setSight(null);
});

it('what was not moved needs no way either, also where it began before what is in sight', async () => {
  const long = eventOf({ timing: { ...series.timing, end: '2026-09-12T00:15:00' } });
  answer('GET /api/events/e', () => long);
  fieldsOf(() => ({ event: long, blank: inputOf(long), typed: inputOf(long) }));
  answer('PUT /api/events/e', () => ({ event: long, added: [] }));
  setSight({ from: '2026-09-07', to: '2026-09-14' });
  const screen = await stage(sheet(), 'board');
  const place = screen.getByRole('combobox', { name: 'Place' }).or(screen.getByRole('textbox', { name: 'Place' }));
  await userEvent.fill(place, 'Slip 1');
  await screen.getByRole('button', { name: 'Save', exact: true }).click();
  await expect.element(screen.getByText('“Knots” is changed.')).toBeVisible();
  expect(screen.getByRole('link', { name: /See it on/ }).elements()).toEqual([]);
  setSight(null);
});
