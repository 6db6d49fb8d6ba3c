import { expect, it } from 'vitest';
import { LIMITS, limitName } from '../src/shared/reach';

it('a limit has a name where it has one', () => {
  expect(limitName(null)).toBe('none');
  expect(limitName(LIMITS.members)).toBe('members');
  expect(limitName({ members: 'headlines', linkHolders: 'timesOnly', everyone: 'nothing' })).toBe('own');
});
