import { useState } from 'react';
import { userEvent } from 'vitest/browser';
import { expect, it } from 'vitest';
import { KeysPanel } from '../../src/board/KeysPanel';
import { YearStrip } from '../../src/board/YearStrip';
import { addDays } from '../../src/shared/dates';
import { answer } from './server';
import { stage } from './stage';

const MONDAY = '2026-11-23';

it('the year strip moves and stretches the window by keys, within its bounds', async () => {
  answer('GET /api/year', () => ({ first: '2026-08-31', last: '2027-06-25', terms: [], closures: [], weeks: [] }));
  const Strip = () => {
    const [shown, setShown] = useState({ from: MONDAY, days: 7 });
    return (
      <YearStrip
        {...shown}
        maxDays={9}
        today="2026-12-02"
        onChange={({ from, days }) => setShown((was) => ({ from, days: days ?? was.days }))}
      />
    );
  };
  const screen = await stage(<Strip />);
  const strip = screen.getByRole('slider', { name: /Days shown/ });
  await expect.element(strip).toHaveAttribute('aria-valuetext', '23 – 29 November 2026');
  (strip.element() as SVGElement).focus();
  for (const [keys, shown] of [
    ['{ArrowRight}', '30 November – 6 December 2026'],
    ['{ArrowLeft}{ArrowLeft}', '16 – 22 November 2026'],
    ['{PageDown}', '14 – 20 December 2026'],
    ['{PageUp}', '16 – 22 November 2026'],
    // Stretched no further than the form of the board can show, nor to nothing.
    ['{Shift>}{ArrowRight}{ArrowRight}{ArrowRight}{ArrowRight}{/Shift}', '16 – 24 November 2026'],
    ['{Shift>}{ArrowLeft}{ArrowLeft}{/Shift}', '16 – 22 November 2026'],
    ['{Home}', '30 November – 6 December 2026'],
    [`{Shift>}${'{ArrowLeft}'.repeat(9)}{/Shift}`, '30 November 2026'],
    // A day alone is gone on from by days.
    ['{ArrowRight}', '1 December 2026'],
  ] as const) {
    await userEvent.keyboard(keys);
    await expect.element(strip, { message: keys }).toHaveAttribute('aria-valuetext', shown);
  }
});

it('the year strip is dragged, as a whole by weeks and at its ends by days', async () => {
  answer('GET /api/year', () => ({ first: MONDAY, last: addDays(MONDAY, 99), terms: [], closures: [], weeks: [] }));
  const asked: object[] = [];
  const screen = await stage(
    <div style={{ width: 1000 }}>
      <YearStrip from={addDays(MONDAY, 28)} days={7} maxDays={63} today={MONDAY} onChange={(to) => asked.push(to)} />
    </div>,
  );
  const strip = screen.getByRole('slider', { name: /Days shown/ });
  await expect.element(strip).toBeVisible();
  const [whole, start, end] = strip.element().querySelectorAll('rect');
  const drag = (part: Element | undefined, by: number) => {
    if (!part) throw new Error('Not on the screen.');
    const { left, top } = part.getBoundingClientRect();
    // A pointer that was never down cannot be captured.
    (part as SVGElement).setPointerCapture = () => undefined;
    for (const [type, x] of [
      ['pointerdown', left + 2],
      ['pointermove', left + 2 + by],
      ['pointerup', left + 2 + by],
    ] as const)
      part.dispatchEvent(new PointerEvent(type, { bubbles: true, clientX: x, clientY: top + 2, pointerId: 1 }));
    return asked.at(-1);
  };
  // A day is ten dots wide.
  expect(drag(whole, 90)).toEqual({ from: addDays(MONDAY, 35) });
  expect(drag(end, 40)).toEqual({ from: addDays(MONDAY, 28), days: 11 });
  expect(drag(start, 30)).toEqual({ from: addDays(MONDAY, 31), days: 4 });
  expect(drag(start, -90)).toEqual({ from: addDays(MONDAY, 19), days: 16 });
  expect(drag(start, 900)).toEqual({ from: addDays(MONDAY, 34), days: 1 });
});

it('? lists the keys and Escape folds them; while something is typed it is a letter', async () => {
  const screen = await stage(
    <>
      <input aria-label="Somewhere" />
      <KeysPanel />
    </>,
  );
  const keys = screen.getByRole('complementary', { name: 'Keys' });
  await userEvent.keyboard('?');
  await expect.element(keys).toBeVisible();
  await userEvent.keyboard('{Escape}');
  await expect.element(keys).not.toBeInTheDocument();
  await userEvent.keyboard('?');
  await expect.element(keys).toBeVisible();
  await userEvent.keyboard('?');
  await expect.element(keys).not.toBeInTheDocument();
  const field = screen.getByRole('textbox', { name: 'Somewhere' });
  await field.click();
  await userEvent.keyboard('?');
  await expect.element(field).toHaveValue('?');
  await expect.element(keys).not.toBeInTheDocument();
});
