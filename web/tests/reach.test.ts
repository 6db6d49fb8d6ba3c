import { describe, expect, it } from 'vitest';
import type { Reach } from '../src/shared/api/client';
import {
  AUDIENCES,
  DETAILS,
  LIMITS,
  limited,
  limitName,
  within,
  type Detail,
  opened,
  widest,
} from '../src/shared/reach';

const table = (members: Detail, linkHolders: Detail, everyone: Detail): Reach => ({ members, linkHolders, everyone });
const rank = (d: Detail) => DETAILS.indexOf(d);

describe('the limit of an event', () => {
  it('takes from wider audiences too, and gives to narrower ones', () => {
    const open = table('everything', 'everything', 'everything');
    const closed = limited(open, null, 'linkHolders', 'headlines');
    expect(within(open, closed)).toEqual(table('everything', 'headlines', 'headlines'));
    expect(within(open, limited(open, closed, 'everyone', 'everything'))).toEqual(open);
    expect(limited(open, closed, 'everyone', 'everything')).toBeNull();
  });

  it('leaves the calendar the say where it limits nothing', () => {
    const members = table('everything', 'nothing', 'nothing');
    expect(limited(members, null, 'members', 'headlines')).toEqual(table('headlines', 'headlines', 'headlines'));
  });

  it('gives what was picked, for every calendar, and never more than it', () => {
    const tables = DETAILS.flatMap((a) => DETAILS.flatMap((b) => DETAILS.map((c) => table(a, b, c)))).filter(
      (r) => rank(r.members) >= rank(r.linkHolders) && rank(r.linkHolders) >= rank(r.everyone),
    );
    for (const calendar of tables)
      for (const before of [null, ...tables])
        for (const audience of AUDIENCES)
          for (const detail of DETAILS.slice(0, rank(calendar[audience]) + 1)) {
            const limit = limited(calendar, before, audience, detail);
            const left = within(calendar, limit);
            expect(left[audience]).toBe(detail);
            for (const other of AUDIENCES) expect(rank(left[other])).toBeLessThanOrEqual(rank(calendar[other]));
            // The server refuses a table that widens.
            if (limit) expect(tables).toContainEqual(limit);
          }
  });

  it('has a name where it has one', () => {
    expect(limitName(null)).toBe('none');
    expect(limitName(LIMITS.members)).toBe('members');
    expect(limitName(table('headlines', 'timesOnly', 'nothing'))).toBe('own');
  });

  it('opens and closes with the audiences around it, and says who gets more', () => {
    const members = table('everything', 'nothing', 'nothing');
    expect(opened(members, 'everyone', 'headlines')).toEqual(table('everything', 'headlines', 'headlines'));
    expect(opened(table('everything', 'everything', 'everything'), 'members', 'timesOnly')).toEqual(
      table('timesOnly', 'timesOnly', 'timesOnly'),
    );
    for (const audience of AUDIENCES)
      for (const detail of DETAILS) {
        const next = opened(table('headlines', 'timesOnly', 'nothing'), audience, detail);
        expect(next[audience]).toBe(detail);
        expect(rank(next.members)).toBeGreaterThanOrEqual(rank(next.linkHolders));
        expect(rank(next.linkHolders)).toBeGreaterThanOrEqual(rank(next.everyone));
      }
    expect(widest(members, table('everything', 'headlines', 'nothing'))).toBe('linkHolders');
    expect(widest(members, opened(members, 'everyone', 'timesOnly'))).toBe('everyone');
    expect(widest(members, table('headlines', 'nothing', 'nothing'))).toBe(null);
  });
});
