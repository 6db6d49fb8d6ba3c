import { useState } from 'react';
import { userEvent } from 'vitest/browser';
import { beforeEach, expect, it, vi } from 'vitest';
import { LineEntry } from '../../src/board/entry/LineEntry';
import type { EventDraft } from '../../src/event/draft/draft';
import { factsOf } from '../../src/event/draft/draft';
import type { EventInput, Line } from '../../src/shared/api/client';
import { calendarOf, eventOf } from '../samples';
import { answer, problem } from './server';
import { stage } from './stage';

const calendar = calendarOf();

const lineOf = (title: string): Line => ({
  title,
  place: 'Loft 2',
  timing: { kind: 'zoned', start: '2026-09-01T18:00:00', end: '2026-09-01T19:00:00', zone: null },
  rule: null,
  follows: null,
  facts: factsOf(null),
  parts: [{ kind: 'title', start: 0, length: title.length }],
  dates: { total: 1, first: [], more: 0, moved: null, sentence: '' } as unknown as Line['dates'],
  more: [],
  doubts: [],
});

const point = (at: Element, name: string, more: PointerEventInit = {}) =>
  at.dispatchEvent(new PointerEvent(name, { bubbles: true, isPrimary: true, button: 0, ...more }));

beforeEach(() => {
  localStorage.clear();
  answer('GET /api/proposals/asked', () => []);
  answer('POST /api/proposals/asked', () => []);
  answer('POST /api/checks/event', () => ({ from: '2026-09-01', to: '2026-11-01', clashes: [] }));
});

it('what is pressed stays where it is, and under the finger, until it is let go', async () => {
  let say: (line: Line) => void = () => undefined;
  const asked = answer('POST /api/line', () => new Promise<Line>((resolve) => (say = resolve)));
  const opened: EventDraft[] = [];
  const screen = await stage(
    <LineEntry
      calendar={calendar}
      day="2026-09-01"
      onClose={() => undefined}
      onMore={(draft) => opened.push(draft)}
      onLines={() => undefined}
    />,
  );
  await screen.getByRole('textbox').fill('Knots 6pm @Loft 2');
  await vi.waitFor(() => expect(asked).toHaveLength(1));
  const more = screen.getByRole('button', { name: 'More fields' });
  const button = more.element();
  const { top } = button.getBoundingClientRect();
  point(button, 'pointerdown');
  // The line is understood while the button is down.
  say(lineOf('Knots'));
  await vi.waitFor(() => expect(screen.queries.isFetching({ queryKey: ['line'] })).toBe(0));
  await new Promise((drawn) => requestAnimationFrame(() => requestAnimationFrame(drawn)));
  const understood = screen.getByRole('list', { name: 'Understood as' });
  expect(understood.query()).toBeNull();
  expect(more.element()).toBe(button);
  point(button, 'pointerup');
  button.dispatchEvent(new MouseEvent('click', { bubbles: true }));
  await expect.element(understood).toBeVisible();
  expect(innerWidth).toBeGreaterThan(700);
  expect(button.getBoundingClientRect().top).toBe(top);
  await vi.waitFor(() => expect(asked).toHaveLength(2));
  say(lineOf('Knots'));
  await vi.waitFor(() => expect(opened.map((draft) => draft.title)).toEqual(['Knots']));
});

it.each([
  ['another button of the mouse', (field: Element) => point(field, 'pointerdown', { button: 2 })],
  [
    'a hand that drags',
    (field: Element) => {
      point(field, 'pointerdown');
      point(field, 'pointermove', { clientX: 30 });
    },
  ],
  [
    'a finger that scrolls',
    (field: Element) => {
      point(field, 'pointerdown');
      point(field, 'pointercancel');
    },
  ],
])('%s holds nothing back', async (_, move) => {
  answer('POST /api/line', () => lineOf('Knots'));
  const nothing = () => undefined;
  const screen = await stage(
    <LineEntry calendar={calendar} day="2026-09-01" onClose={nothing} onMore={nothing} onLines={nothing} />,
  );
  const field = screen.getByRole('textbox');
  move(field.element());
  await field.fill('Knots 6pm @Loft 2');
  await expect.element(screen.getByRole('list', { name: 'Understood as' })).toBeVisible();
});

it('lines typed one after the other are added one after the other, and what is refused is there to be mended', async () => {
  const asked = answer<{ text: string }>('POST /api/line', async ({ text }) => {
    await new Promise((done) => setTimeout(done, 40));
    return lineOf(text);
  });
  const added = answer<EventInput>('POST /api/events', async ({ title }) => {
    await new Promise((done) => setTimeout(done, 60));
    return title === 'Tar' ? problem(422, 'limit_events') : eventOf({ title: title ?? '' });
  });
  const mended: string[][] = [];
  const Field = () => {
    const [isOpen, setOpen] = useState(true);
    return isOpen ? (
      <LineEntry
        calendar={calendar}
        day="2026-09-01"
        onClose={() => setOpen(false)}
        onMore={() => undefined}
        onLines={(lines) => mended.push(lines)}
      />
    ) : (
      <p>closed</p>
    );
  };
  const screen = await stage(<Field />);
  await userEvent.keyboard('Rope walk{Enter}{Enter}Oars{Enter}Knots');
  await expect.element(screen.getByRole('textbox')).toHaveValue('Knots');
  await expect.poll(() => added.map((e) => e.title)).toEqual(['Rope walk', 'Oars']);
  await expect.poll(() => screen.queries.isMutating() + screen.queries.isFetching()).toBe(0);
  await expect.element(screen.getByRole('textbox')).toHaveValue('Knots');
  await userEvent.keyboard('{Enter}');
  await expect.element(screen.getByText('closed')).toBeVisible();
  expect(added.map((e) => e.title)).toEqual(['Rope walk', 'Oars', 'Knots']);
  expect(asked.length).toBeGreaterThan(2);

  await screen.again(<Field key="again" />);
  await userEvent.keyboard('Tar{Enter}');
  await expect.element(screen.getByRole('alert')).toHaveTextContent('as many events');
  await expect.element(screen.getByRole('textbox')).toHaveValue('Tar');
  // Refused while the next one is typed, that one is typed to its end.
  await userEvent.keyboard('{Enter}Spli');
  await expect.element(screen.getByRole('alert')).toHaveTextContent('“Tar”: Your school has as many events');
  await userEvent.keyboard('ces');
  await expect.element(screen.getByRole('textbox')).toHaveValue('Splices');
  expect(mended).toEqual([]);
  await userEvent.keyboard('{Enter}');
  await expect.poll(() => mended).toEqual([['Tar', 'Splices']]);
  expect(added.map((e) => e.title)).not.toContain('Splices');
});
