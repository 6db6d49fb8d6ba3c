import { describe, expect, it } from 'vitest';
import { filledTitle } from '../src/publish/titles';

describe('a title pattern', () => {
  const values = { title: 'Row', calendar: 'Rigging 2', tag: 'R2', place: 'Loft 2', category: '' };
  // The same cases as the server's own test.
  it.each([
    ['{title}', 'Row'],
    ['{calendar}: {title}', 'Rigging 2: Row'],
    ['[{tag}] {title} ({category})', '[R2] Row'],
    ['{title} – {place}', 'Row – Loft 2'],
    ['{category} · {title}', 'Row'],
  ])('%s gives %s', (pattern, expected) => {
    expect(filledTitle(pattern, values)).toBe(expected);
  });

  it('shows a field that does not exist as it was typed, and never nothing', () => {
    expect(filledTitle('{teacher} {title}', values)).toBe('{teacher} Row');
    expect(filledTitle('({category})', values)).toBe('Row');
  });
});
