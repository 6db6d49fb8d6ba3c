import { readdirSync, readFileSync } from 'node:fs';
import { describe, expect, it } from 'vitest';
import rooms from '../rooms.json';

type Tree = { [key: string]: string | string[] | Tree };

const flat = (tree: Tree, prefix = ''): Record<string, string> =>
  Object.fromEntries(
    Object.entries(tree).flatMap(([key, value]) =>
      typeof value === 'string' || Array.isArray(value)
        ? [[prefix + key, String(value)]]
        : Object.entries(flat(value, `${prefix}${key}.`)),
    ),
  );

const files = import.meta.glob<Tree>('../src/*/texts/*.json', { import: 'default', eager: true });
const toldByServer = import.meta.glob<Tree>('../../src/Valtro.Server/Outlets/Texts/*.json', {
  import: 'default',
  eager: true,
});
const textsOf = (room: string, language: string) => flat(files[`../src/${room}/texts/${language}.json`] ?? {});
const spoken = [...new Set(Object.keys(files).map((path) => path.split('/')[2] ?? ''))].sort();

const blanks = (text: string) => [...text.matchAll(/{{(\w+)}}/g)].map((m) => m[1]).sort();
// A language has forms of number of its own.
const stem = (key: string) => key.replace(/_(zero|one|two|few|many|other)$/, '');

const sources = import.meta.glob<string>(['../src/**/*.ts', '../src/**/*.tsx', '!../src/shared/api/schema.ts'], {
  query: '?raw',
  import: 'default',
  eager: true,
});
const sourcesOf = (room: string) =>
  Object.entries(sources)
    .filter(([path]) => path.startsWith(`../src/${room}/`))
    .map(([, text]) => text)
    .join('\n');
/** t('a.b') by name, t(`a.${x}`) by what stands before the blank. */
const says = (source: string, key: string, prefixes: string[]) =>
  source.includes(`'${key}'`) || source.includes(`"${key}"`) || prefixes.some((p) => key.startsWith(p));
const prefixesIn = (source: string) => [...source.matchAll(/`([a-zA-Z.]+\.)\$\{/g)].map((m) => m[1] ?? '');

it.each(spoken)('the texts of %s exist in every language with the same blanks to fill', (room) => {
  const english = textsOf(room, 'en');
  // Visitors read more languages than those who keep calendars.
  for (const language of room === 'outlet' ? ['fr', 'de', 'es', 'ar'] : ['fr']) {
    const other = textsOf(room, language);
    expect([...new Set(Object.keys(other).map(stem))].sort()).toEqual(
      [...new Set(Object.keys(english).map(stem))].sort(),
    );
    for (const [key, text] of Object.entries(other)) {
      expect(text.trim(), `${language} ${key}`).not.toBe('');
      if (key in english) expect(blanks(text), `${language} ${key}`).toEqual(blanks(english[key] ?? ''));
    }
  }
});

it('what the server says to visitors exists in every language with the same blanks to fill', () => {
  const [english, ...others] = ['en', 'fr', 'de', 'es', 'ar'].map((l) =>
    flat(toldByServer[`../../src/Valtro.Server/Outlets/Texts/${l}.json`] ?? {}),
  );
  for (const other of others) {
    expect(Object.keys(other)).toEqual(Object.keys(english ?? {}));
    for (const [key, text] of Object.entries(other)) expect(blanks(text), key).toEqual(blanks(english?.[key] ?? ''));
  }
});

describe.each(Object.entries(rooms))('in %s', (room, others) => {
  const everywhere = new Set(Object.keys(rooms).flatMap((name) => Object.keys(textsOf(name, 'en')).map(stem)));
  const own = new Set(
    [room, 'shared', 'problems', ...others].flatMap((name) => Object.keys(textsOf(name, 'en')).map(stem)),
  );

  it('every text that is said is there when the room is open', () => {
    const source = sourcesOf(room);
    const prefixes = prefixesIn(source);
    const missing = [...everywhere].filter((key) => !own.has(key) && says(source, key, prefixes));
    expect(missing).toEqual([]);
    // And what looks like a text is one.
    const named = [...source.matchAll(/\bt\('([a-zA-Z]+(?:\.[a-zA-Z]+)*)'/g)].map((m) => m[1] ?? '');
    expect(named.filter((key) => !own.has(key))).toEqual([]);
  });

  it('every text is said', () => {
    const takers = [
      room,
      ...Object.entries(rooms)
        .filter(([, from]) => room === 'shared' || from.includes(room as never))
        .map(([name]) => name),
    ];
    const source = takers.map(sourcesOf).join('\n');
    const prefixes = prefixesIn(source);
    const unsaid = [...new Set(Object.keys(textsOf(room, 'en')).map(stem))].filter(
      (key) => !says(source, key, prefixes),
    );
    if (room !== 'problems') expect(unsaid).toEqual([]);
  });
});

/** The codes of all problems, as the server's sources give them: a code stands first where a problem is made. */
const codesOfServer = () => {
  const code =
    /(?:InvalidInputException\(|Of\((?:\d+|StatusCodes\.\w+), |NotFound\(|NotFoundException\(|\bnew\()"([a-z]+(?:_[a-z]+)*)", /g;
  return new Set(
    ['Valtro.Core', 'Valtro.Store', 'Valtro.Server'].flatMap((project) =>
      readdirSync(`../src/${project}`, { recursive: true, encoding: 'utf8' })
        .filter((file) => file.endsWith('.cs') && !/(^|\/)(obj|bin)\//.test(file) && !file.includes('Telemetry'))
        .flatMap((file) =>
          [...readFileSync(`../src/${project}/${file}`, 'utf8').matchAll(code)].map((m) => m[1] ?? ''),
        ),
    ),
  );
};

it.each(['en', 'fr'])('every problem the server can tell of has words, and no other (%s)', (language) => {
  const words = Object.keys({ ...textsOf('problems', language), ...textsOf('shared', language) })
    .filter((key) => key.startsWith('problem.'))
    .map((key) => key.replace('problem.', ''));
  const codes = codesOfServer();
  expect(codes.size).toBeGreaterThan(130);
  expect([...codes].filter((code) => !words.includes(code))).toEqual([]);
  // The interface tells of some itself.
  const own = Object.values(sources).join('\n');
  expect(words.filter((code) => !codes.has(code) && !own.includes(`'${code}'`))).toEqual([]);
});
