import { useState } from 'react';
import { userEvent } from 'vitest/browser';
import { expect, it } from 'vitest';
import type { Board, Occurrence, Shift } from '../../src/shared/api/client';
import { arrange, type Arrangement } from '../../src/board/arrangement';
import { Lanes } from '../../src/board/views/Lanes';
import type { Chosen } from '../../src/board/selection';
import { Sheet } from '../../src/shared/parts/Sheet';
import { addDays, dayRange } from '../../src/shared/dates';
import { calendarOf, eventOf, occurrenceOf } from '../samples';
import '../../src/board/board.scss';
import { answer, problem } from './server';
import { stage } from './stage';

const MONDAY = '2026-11-23';
const MANY = 200;

/** A board of calendars, each with an event; what is drawn anew is told by what is read. */
const boardRead = (many = MANY) => {
  const read = new Set<string>();
  const occurrences = Array.from({ length: many }, (_, i): Occurrence => {
    const date = `${addDays(MONDAY, i % 5)}T09:00:00`;
    const o = occurrenceOf({
      eventId: `e${i}`,
      calendarId: `c${i}`,
      title: `Lesson ${i}`,
      date,
      start: date,
      end: date.replace('09', '10'),
      firstDay: date.slice(0, 10),
      lastDay: date.slice(0, 10),
    });
    return Object.defineProperty(o, 'title', {
      enumerable: true,
      get: () => {
        read.add(o.eventId);
        return `Lesson ${i}`;
      },
    });
  });
  const data: Board = {
    from: MONDAY,
    to: addDays(MONDAY, 7),
    zone: 'America/Halifax',
    days: dayRange(MONDAY, 7).map((date) => ({
      date,
      term: null,
      teachingWeek: null,
      weekLetter: null,
      cycleDay: null,
      isPinned: false,
      isSchoolDay: true,
      closure: null,
      partClosures: [],
    })),
    calendars: Array.from({ length: many }, (_, i) =>
      calendarOf({ id: `c${i}`, title: `Calendar ${i}`, mark: (i % 12) + 1 }),
    ),
    occurrences,
  };
  return { data, read };
};

const lanes = (data: Board, chosen: Chosen | null = null, onChoose: (now: Chosen) => void = () => undefined) => (
  <Lanes
    data={data}
    calendars={data.calendars}
    arrangement={{ groups: null, hidden: [], folded: [] }}
    onArrange={() => undefined}
    from={MONDAY}
    days={7}
    today={MONDAY}
    chosen={chosen}
    onChoose={onChoose}
  />
);

/** A hand that takes an entry. */
const handOn = (entry: Element) => {
  const pointer = (type: string, x: number, y: number) =>
    entry.dispatchEvent(
      new PointerEvent(type, {
        bubbles: true,
        cancelable: true,
        pointerId: 1,
        pointerType: 'mouse',
        isPrimary: true,
        button: type === 'pointermove' ? -1 : 0,
        buttons: type === 'pointerup' ? 0 : 1,
        clientX: x,
        clientY: y,
      }),
    );
  return { box: entry.getBoundingClientRect(), pointer };
};

const settle = () => new Promise((done) => requestAnimationFrame(() => requestAnimationFrame(done)));

it('a pointer over a board of 200 calendars draws anew what it drags, and where it was let go the event goes', async () => {
  const { data, read } = boardRead();
  const event = eventOf({ id: 'e1', calendarId: 'c1', title: 'Lesson 1' });
  const asked = answer('POST /api/events/e1/fields', () => ({
    event,
    scope: 'everyDate',
    blank: event,
    typed: event,
    conflicts: [],
  }));
  const sent = answer('PUT /api/events/e1', () => ({ event, added: [] }));
  const screen = await stage(lanes(data));
  const entry = screen.getByRole('button', { name: /^Lesson 1,/ }).element();
  // Nothing bounds this board: all of its rows are near.
  await expect.poll(() => read.size).toBe(MANY);
  read.clear();

  const { box, pointer } = handOn(entry);
  pointer('pointerdown', box.left + 20, box.top + 8);
  for (let i = 1; i <= 30; i++) {
    pointer('pointermove', box.left + 20 + i * 6, box.top + 8);
    await settle();
  }
  await expect.element(screen.getByRole('status').filter({ hasText: 'Lesson 1' })).toBeVisible();
  expect([...read]).toEqual(['e1']);

  pointer('pointerup', box.left + 200, box.top + 8);
  await expect.poll(() => sent.length).toBe(1);
  expect(asked).toEqual([
    expect.objectContaining({ date: '2026-11-24T09:00:00', shift: expect.objectContaining({ days: 1 }) as unknown }),
  ]);
});

it('rows far from what is on the screen are drawn when they come there, and all of them for paper', async () => {
  const { data, read } = boardRead();
  const screen = await stage(<div style={{ height: 700, display: 'flex' }}>{lanes(data)}</div>);
  const entry = (nth: number) => screen.getByRole('button', { name: new RegExp(`^Lesson ${nth},`) });
  await expect.element(entry(0)).toBeVisible();
  await settle();
  expect(read.size).toBeLessThan(MANY / 2);
  await expect.element(entry(150)).not.toBeInTheDocument();
  // It has its name and its room all the same.
  const row = screen.getByRole('group', { name: 'Calendar 150', exact: true });
  await expect.element(row).toHaveTextContent('Calendar 150');
  expect((row.element() as HTMLElement).offsetHeight).toBeGreaterThan(40);

  (entry(3).element() as HTMLElement).focus();
  row.element().scrollIntoView();
  await expect.element(entry(150)).toBeVisible();
  await expect.element(entry(12)).not.toBeInTheDocument();
  // What has the focus keeps it, and there is one stop for Tab.
  await expect.element(entry(3)).toHaveFocus();
  await settle();
  expect(document.querySelectorAll('.board section [tabindex="0"]')).toHaveLength(1);

  dispatchEvent(new Event('beforeprint'));
  await expect.element(entry(199)).toBeInTheDocument();
  await expect.element(entry(12)).toBeInTheDocument();
  dispatchEvent(new Event('afterprint'));
  await expect.element(entry(199)).not.toBeInTheDocument();
});

it('a line keeps its text and the focus while somebody else takes a row above away', async () => {
  answer('GET /api/proposals/asked', () => []);
  answer('POST /api/line', () => problem(422, 'title_missing'));
  const { data } = boardRead(5);
  const screen = await stage(lanes(data));
  await screen.getByRole('button', { name: 'Add to Calendar 3 on Monday 23 November' }).click();
  const field = screen.getByRole('textbox', { name: /^New event in Calendar 3/ });
  await userEvent.type(field, 'Rope');
  await screen.again(lanes({ ...data, calendars: data.calendars.filter((c) => c.id !== 'c1') }));
  await expect.element(screen.getByRole('group', { name: 'Calendar 1', exact: true })).not.toBeInTheDocument();
  await expect.element(field).toHaveFocus();
  await expect.element(field).toHaveValue('Rope');
});

it('typing a line draws none of the entries anew', async () => {
  answer('GET /api/proposals/asked', () => []);
  answer('POST /api/line', () => problem(422, 'title_missing'));
  const { data, read } = boardRead();
  const screen = await stage(lanes(data));
  await expect.poll(() => read.size).toBe(MANY);
  await screen.getByRole('button', { name: 'Add to Calendar 3 on Monday 23 November' }).click();
  const field = screen.getByRole('textbox', { name: /^New event in Calendar 3/ });
  await expect.element(field).toBeVisible();
  await settle();
  read.clear();
  await userEvent.type(field, 'Rope work');
  await expect.element(field).toHaveValue('Rope work');
  expect([...read]).toEqual([]);
});

it('Escape while dragging leaves everything as it was', async () => {
  const asked = answer('POST /api/events/e1/fields', () => null);
  const screen = await stage(lanes(boardRead(4).data));
  const entry = screen.getByRole('button', { name: /^Lesson 1,/ });
  const { box, pointer } = handOn(entry.element());
  const told = screen.getByRole('status').filter({ hasText: 'Lesson 1' });
  pointer('pointerdown', box.left + 20, box.top + 8);
  for (let i = 1; i <= 6; i++) pointer('pointermove', box.left + 20 + i * 40, box.top + 8);
  await expect.element(told).toBeVisible();
  await userEvent.keyboard('{Escape}');
  await expect.element(told).not.toBeInTheDocument();
  pointer('pointermove', box.left + 300, box.top + 8);
  pointer('pointerup', box.left + 300, box.top + 8);
  await settle();
  await expect.element(entry).toHaveAccessibleName(/Tuesday 24 November/);
  expect(asked).toEqual([]);
  await expect.element(told).not.toBeInTheDocument();
});

it('steps that are made while one is on its way are the next one, and none is lost', async () => {
  let go: () => void = () => undefined;
  const held = new Promise<void>((free) => (go = free));
  const event = eventOf({ id: 'e1', calendarId: 'c1', title: 'Lesson 1' });
  const asked = answer<{ shift: Shift }>('POST /api/events/e1/fields', async () => {
    await held;
    return { event, scope: 'everyDate', blank: event, typed: event, conflicts: [] };
  });
  const sent = answer('PUT /api/events/e1', () => ({ event, added: [] }));
  const screen = await stage(lanes(boardRead(4).data));
  (screen.getByRole('button', { name: /^Lesson 1,/ }).element() as HTMLElement).focus();
  await userEvent.keyboard('{Alt>}{ArrowDown}{ArrowRight}{ArrowDown}{ArrowRight}{/Alt}');
  expect(asked).toHaveLength(1);
  go();
  await expect.poll(() => sent.length).toBe(2);
  expect(asked.map(({ shift }) => [shift.days, shift.calendarId])).toEqual([
    [0, 'c2'],
    [2, 'c3'],
  ]);
});

it.each([false, true])(
  'steps of a series add up where they are made, unless its sheet lies over them: %s',
  async (isOver) => {
    const { data } = boardRead(4);
    const series = { ...data, occurrences: data.occurrences.map((o) => ({ ...o, isSeries: true })) };
    const Board = () => {
      const [chosen, setChosen] = useState<Chosen | null>(null);
      return (
        <>
          {lanes(series, chosen, setChosen)}
          {chosen?.kind === 'event' && (
            <Sheet label="Lesson" head="" mark={null} onClose={() => setChosen(null)}>
              {isOver && <style>{'.sheet { position: fixed; inset: 0; z-index: 99 }'}</style>}
              <p>{`later by ${chosen.shift?.days ?? 0}`}</p>
            </Sheet>
          )}
        </>
      );
    };
    const screen = await stage(<Board />);
    const entry = screen.getByRole('button', { name: /^Lesson 1,/ });
    const sheet = screen.getByRole('complementary', { name: 'Lesson' });
    (entry.element() as HTMLElement).focus();
    await userEvent.keyboard('{Alt>}{ArrowRight}{/Alt}');
    await expect.element(sheet).toHaveTextContent('later by 1');
    if (isOver) {
      await expect.element(sheet).toHaveFocus();
      return;
    }
    await expect.element(entry).toHaveFocus();
    await userEvent.keyboard('{Alt>}{ArrowRight}{ArrowRight}{ArrowLeft}{/Alt}');
    await expect.element(sheet).toHaveTextContent('later by 2');
    await userEvent.keyboard('{Alt>}{ArrowLeft}{ArrowLeft}{/Alt}');
    await expect.element(sheet).toHaveTextContent('later by 0');
    await userEvent.keyboard('{Enter}');
    await expect.element(sheet).toHaveFocus();
    await screen.getByRole('button', { name: 'Close' }).click();
    await expect.element(entry).toHaveFocus();
  },
);

it('the cells are walked with the arrow keys, and a line is begun and left', async () => {
  answer('GET /api/proposals/asked', () => []);
  const screen = await stage(lanes(boardRead(4).data));
  const cell = (calendar: number, day: string) =>
    screen.getByRole('button', { name: `Add to Calendar ${calendar} on ${day}` });
  (cell(0, 'Monday 23 November').element() as HTMLElement).focus();
  await userEvent.keyboard('{ArrowRight}');
  await expect.element(cell(0, 'Tuesday 24 November')).toHaveFocus();
  await userEvent.keyboard('{ArrowDown}{Enter}');
  const field = screen.getByRole('textbox', { name: /^New event in Calendar 1 on Tue 24 Nov/ });
  await expect.element(field).toHaveFocus();
  await userEvent.keyboard('{Escape}');
  await expect.element(field).not.toBeInTheDocument();
  await expect.element(cell(1, 'Tuesday 24 November')).toHaveFocus();
});

it('a lane goes up and down by keys, and no further than its end', async () => {
  const { data } = boardRead(3);
  const arranged: string[][] = [];
  const Arranged = () => {
    const [arrangement, setArrangement] = useState<Arrangement>({ groups: null, hidden: [], folded: [] });
    const onArrange = (next: Arrangement) => {
      arranged.push(arrange(data.calendars, next).flatMap((g) => g.calendars.map((c) => c.id)));
      setArrangement(next);
    };
    return (
      <Lanes
        data={data}
        calendars={data.calendars}
        arrangement={arrangement}
        onArrange={onArrange}
        from={MONDAY}
        days={7}
        today={MONDAY}
        chosen={null}
        onChoose={() => undefined}
      />
    );
  };
  const screen = await stage(<Arranged />);
  const shown = () =>
    screen
      .getByRole('group', { name: /^Calendar \d$/ })
      .elements()
      .map((e) => e.getAttribute('aria-label'));
  const name = screen.getByRole('button', { name: /^Calendar 2(?!: )/ }).first();
  (name.element() as HTMLElement).focus();
  await userEvent.keyboard('{Alt>}{ArrowUp}{/Alt}');
  await expect.poll(shown).toEqual(['Calendar 0', 'Calendar 2', 'Calendar 1']);
  await expect.element(name).toHaveFocus();
  await userEvent.keyboard('{Alt>}{ArrowUp}{ArrowUp}{/Alt}');
  await expect.poll(shown).toEqual(['Calendar 2', 'Calendar 0', 'Calendar 1']);
  await userEvent.keyboard('{Alt>}{ArrowDown}{/Alt}');
  await expect.poll(shown).toEqual(['Calendar 0', 'Calendar 2', 'Calendar 1']);
  expect(arranged.every((ids) => [...ids].sort().join() === 'c0,c1,c2')).toBe(true);
});
