import type { KeyboardEvent } from 'react';

/** Moves the focus between the cells by arrow keys. */
export const moveFocus = (e: KeyboardEvent<HTMLElement>) => {
  const by: Record<string, [number, number]> = {
    ArrowLeft: [-1, 0],
    ArrowRight: [1, 0],
    ArrowUp: [0, -1],
    ArrowDown: [0, 1],
  };
  const step = by[e.key];
  const target = e.target;
  if (!step || !(target instanceof HTMLElement) || !target.dataset.cell) return;
  const [column = 0, row = 0] = target.dataset.cell.split(',').map(Number);
  const next = e.currentTarget.querySelector<HTMLElement>(`[data-cell="${column + step[0]},${row + step[1]}"]`);
  if (next) {
    e.preventDefault();
    next.focus();
  }
};
