import { QueryObserver, type QueryKey } from '@tanstack/react-query';
import { describe, expect, it } from 'vitest';
import { Queries } from '../src/shared/data/queries';

/** A server with one value, each question of which is answered with what it was when it came, whenever that is let through. */
const server = () => {
  const on = { value: 'before', asked: [] as (() => void)[] };
  const ask = () => {
    const said = on.value;
    return new Promise<string>((go) => on.asked.push(() => go(said)));
  };
  return { on, ask };
};
/** Answers what was asked so far, also what is asked because of that. */
const settle = async (asked: (() => void)[]) => {
  for (let quiet = 0; quiet < 5; quiet++) {
    if (asked.length > 0) quiet = 0;
    asked.splice(0).forEach((go) => go());
    await new Promise((go) => setTimeout(go, 0));
  }
};
const key: QueryKey = ['board', 'w'];
const look = (queries: Queries, queryFn: () => Promise<string>) =>
  new QueryObserver(queries, { queryKey: key, queryFn, staleTime: 60_000 }).subscribe(() => undefined);

describe('an answer that was on its way when something changed', () => {
  it('is not the last one, though it is the first', async () => {
    const { on, ask } = server();
    const queries = new Queries();
    look(queries, ask);
    on.value = 'after';
    const shown = queries.invalidateQueries({ queryKey: ['board'] });
    await settle(on.asked);
    await shown;
    expect(queries.getQueryData(key)).toBe('after');
  });

  it('does not count as young when nobody looks at it any more', async () => {
    const { on, ask } = server();
    const queries = new Queries();
    const leave = look(queries, ask);
    await settle(on.asked);
    void queries.invalidateQueries();
    leave();
    on.value = 'after';
    void queries.invalidateQueries();
    await settle(on.asked);
    look(queries, ask);
    await settle(on.asked);
    expect(queries.getQueryData(key)).toBe('after');
  });

  it.each([true, false])('does not take the place of what was shown meanwhile (asked before: %s)', async (wasAsked) => {
    const { on, ask } = server();
    const queries = new Queries();
    look(queries, ask);
    if (wasAsked) {
      await settle(on.asked);
      void queries.invalidateQueries();
    }
    on.value = 'after';
    queries.setQueryData(key, 'after');
    expect(queries.getQueryData(key)).toBe('after');
    await settle(on.asked);
    expect(queries.getQueryData(key)).toBe('after');
  });

  it('is asked for once more, not once for each change', async () => {
    const { on, ask } = server();
    let questions = 0;
    const queries = new Queries();
    look(queries, () => {
      questions++;
      return ask();
    });
    for (let n = 0; n < 10; n++) void queries.invalidateQueries();
    await settle(on.asked);
    expect(questions).toBe(2);
  });

  it('is asked for once more also when it fails', async () => {
    const queries = new Queries({ defaultOptions: { queries: { retry: false } } });
    let fails = true;
    look(queries, () => (fails ? Promise.reject(new Error('away')) : Promise.resolve('there')));
    fails = false;
    await queries.invalidateQueries();
    expect(queries.getQueryData(key)).toBe('there');
  });
});
