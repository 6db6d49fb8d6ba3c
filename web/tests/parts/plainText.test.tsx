import { expect, it } from 'vitest';
import { plainText } from '../../src/event/plainText';

it('says what a formatted text says, in one line', () => {
  expect(plainText('<p>Bring:</p><ul><li>rope &amp; <strong>tar</strong></li><li>a<br>knife</li></ul>')).toBe(
    'Bring: rope & tar a knife',
  );
  expect(plainText('')).toBe('');
});
