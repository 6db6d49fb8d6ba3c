import { describe, expect, it } from 'vitest';
import outletEn from '../src/outlet/texts/en.json';
import outletFr from '../src/outlet/texts/fr.json';
import en from '../src/shared/i18n/en.json';
import fr from '../src/shared/i18n/fr.json';

type Tree = { [key: string]: string | string[] | Tree };

const flat = (tree: Tree, prefix = ''): Record<string, string> =>
  Object.assign(
    {},
    ...Object.entries(tree).map(([key, value]) =>
      typeof value === 'string' || Array.isArray(value)
        ? { [prefix + key]: String(value) }
        : flat(value, `${prefix}${key}.`),
    ),
  );

const blanks = (text: string) => [...text.matchAll(/{{(\w+)}}/g)].map((m) => m[1]).sort();
// A language has forms of number of its own.
const stem = (key: string) => key.replace(/_(zero|one|two|few|many|other)$/, '');

describe.each([
  ['the workspace', flat(en), flat(fr)],
  ['the outlets', flat(outletEn), flat(outletFr)],
])('the texts of %s', (_, english, french) => {
  it('exist in both languages with the same blanks to fill', () => {
    expect([...new Set(Object.keys(french).map(stem))].sort()).toEqual(
      [...new Set(Object.keys(english).map(stem))].sort(),
    );
    for (const [key, text] of Object.entries(french)) {
      expect(text.trim(), key).not.toBe('');
      if (key in english) expect(blanks(text), key).toEqual(blanks(english[key] ?? ''));
    }
  });
});

it('every text of the workspace is said somewhere', () => {
  const sources = Object.values(
    import.meta.glob<string>(['../src/**/*.ts', '../src/**/*.tsx'], { query: '?raw', import: 'default', eager: true }),
  ).join('\n');
  // t('a.b') by name, t(`a.${x}`) by what stands before the blank.
  const prefixes = [...sources.matchAll(/`([a-zA-Z.]+\.)\$\{/g)].map((m) => m[1] ?? '');
  const unsaid = [...new Set(Object.keys(flat(en)).map(stem))].filter(
    (key) => !sources.includes(`'${key}'`) && !sources.includes(`"${key}"`) && !prefixes.some((p) => key.startsWith(p)),
  );
  expect(unsaid).toEqual([]);
});
