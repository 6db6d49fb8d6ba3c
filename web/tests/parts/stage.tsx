import { QueryClientProvider } from '@tanstack/react-query';
import type { ReactNode } from 'react';
import { MemoryRouter } from 'react-router';
import { render } from 'vitest-browser-react';
import { loadTexts, startTexts, type Room } from '../../src/shared/i18n';
import { UndoProvider } from '../../src/shared/data/undo';
import { Queries } from '../../src/shared/data/queries';
import { holdWhilePressed } from '../../src/shared/held';
import { answer } from './server';

let isStarted = false;

/** Puts a part of the interface on the page, with its texts and what every part stands in. */
export const stage = async (part: ReactNode, room: Room = 'board') => {
  if (!isStarted) {
    holdWhilePressed();
    await startTexts();
  }
  isStarted = true;
  await Promise.all([loadTexts(room), loadTexts('problems')]);
  answer('GET /api/lists', () => ({ categories: [], places: [], testsADay: 0, noticeDays: 0, version: 1 }));
  answer('GET /api/proposals', () => []);
  const queries = new Queries({ defaultOptions: { queries: { retry: false } } });
  const within = (inner: ReactNode) => (
    <QueryClientProvider client={queries}>
      <MemoryRouter>
        <UndoProvider refresh={() => queries.invalidateQueries()}>{inner}</UndoProvider>
      </MemoryRouter>
    </QueryClientProvider>
  );
  const screen = await render(within(part));
  return { ...screen, queries, again: (other: ReactNode) => screen.rerender(within(other)) };
};
