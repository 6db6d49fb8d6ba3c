import { describe, expect, it } from 'vitest';
import { ApiProblem } from '../src/shared/api/client';
import { merged, overLatest, overSaved } from '../src/shared/merged';

interface Thing {
  title: string;
  count: number | null;
  names: string[];
  look: { colour: string; parts: { hours: number } };
}

// The same things in every run.
let seed = 11;
const any = (n: number) => ((seed = (Math.imul(seed, 1103515245) + 12345) >>> 0) >>> 8) % n;
const NAMES = ['a', 'b', 'c', 'd'];
const thing = (): Thing => ({
  title: `t${any(3)}`,
  count: any(3) || null,
  names: NAMES.filter(() => any(2) === 0),
  look: { colour: `c${any(3)}`, parts: { hours: any(3) } },
});
/** Every part by itself. */
const partsOf = (of: Thing): Record<string, unknown> => ({
  title: of.title,
  count: of.count,
  colour: of.look.colour,
  hours: of.look.parts.hours,
  ...Object.fromEntries(NAMES.map((name) => [`name ${name}`, of.names.includes(name)])),
});

describe('what two people made of one thing', () => {
  it('has of each part what the one who changed it made of it, and of what both changed what I did', () => {
    for (let n = 0; n < 2_000; n++) {
      const [before, mine, theirs] = [thing(), thing(), thing()];
      const [was, my, their] = [before, mine, theirs].map(partsOf) as [
        Record<string, unknown>,
        Record<string, unknown>,
        Record<string, unknown>,
      ];
      const wanted = Object.fromEntries(Object.keys(was).map((p) => [p, my[p] === was[p] ? their[p] : my[p]]));
      expect(partsOf(merged(before, mine, theirs))).toEqual(wanted);
    }
  });

  it('has names in their order, with mine after them, each once', () => {
    expect(merged(['a', 'b'], ['b', 'a', 'x'], ['b', 'y', 'a'])).toEqual(['b', 'y', 'a', 'x']);
    expect(merged(['a'], ['a', 'x'], ['a', 'x'])).toEqual(['a', 'x']);
  });

  it('has parts that only one of both knows', () => {
    expect(merged<object>({ a: 1 }, { a: 1, mine: 2 }, { a: 1, theirs: 3 })).toEqual({ a: 1, mine: 2, theirs: 3 });
    expect(merged<object | null>(null, { a: 1 }, null)).toEqual({ a: 1 });
  });
});

describe('what is typed on while it is saved', () => {
  interface Row {
    id: string | null;
    name: string;
    parts: string[];
  }
  const row = (n: number): Row => ({ id: any(2) ? `known ${n}` : null, name: `r${n % 2}`, parts: [`p${any(2)}`] });

  it('stands over what was saved, and each row that was saved keeps the identity it got', () => {
    for (let n = 0; n < 2_000; n++) {
      const rows = Array.from({ length: any(5) }, (_, i) => row(i));
      const sent = { rows, words: 'w', version: 3 };
      const saved = { version: 4, words: 'w', rows: rows.map((r, i) => ({ ...r, id: r.id ?? `new ${i}` })) };
      const isFewer = any(4) === 0;
      const typed = {
        ...sent,
        words: any(2) ? 'w' : 'other',
        rows: [
          ...rows.flatMap((r, i) => (isFewer && i === 0 ? [] : [any(3) ? r : { ...r, name: `${r.name} typed` }])),
          ...(any(3) || isFewer ? [] : [row(9)]),
        ],
      };
      const left = overSaved(sent, typed, saved);
      expect([left.words, left.version]).toEqual([typed.words, 4]);
      expect(left.rows.map((r) => [r.name, r.parts])).toEqual(typed.rows.map((r) => [r.name, r.parts]));
      // None of what was saved stands there twice.
      const ids = left.rows.flatMap((r) => r.id ?? []);
      expect(new Set(ids).size).toBe(ids.length);
      if (!isFewer) expect(left.rows.slice(0, rows.length).map((r) => r.id)).toEqual(saved.rows.map((r) => r.id));
    }
  });

  it('is as it was typed where it was saved in another order', () => {
    const [a, b] = [
      { id: null, name: 'a' },
      { id: null, name: 'b' },
    ];
    expect(overSaved([b, a], [b, { ...a, name: 'c' }], [a, b])).toEqual([b, { ...a, name: 'c' }]);
    expect(overSaved([b, a], [b, a], [a, b])).toEqual([a, b]);
  });
});

describe('a choice over the latest', () => {
  const stale = (current: unknown) => new ApiProblem(409, 'stale_version', '', undefined, current);

  it('is sent once more over what somebody else made, and not for anything else', async () => {
    const sent: number[] = [];
    const send = (now: number) => {
      sent.push(now);
      return now < 3 ? Promise.reject(stale(now + 1)) : Promise.resolve('kept');
    };
    expect(await overLatest(1, send)).toBe('kept');
    expect(sent).toEqual([1, 2, 3]);
    await expect(overLatest(1, () => Promise.reject(new ApiProblem(422, 'title_missing', '')))).rejects.toMatchObject({
      code: 'title_missing',
    });
    // Of what is not told of as it is now nobody can send it again.
    await expect(overLatest(1, () => Promise.reject(stale(null)))).rejects.toMatchObject({ code: 'stale_version' });
  });
});
