import { expect, it } from 'vitest';
import { factsOf } from '../../src/event/draft/draft';
import { differences } from '../../src/event/History';
import { eventOf } from '../samples';

it('the history names the fields that differ, formatted text as plain text', () => {
  const before = eventOf({ description: '<p>Bring a <strong>rope</strong></p>' });
  const after = {
    ...before,
    title: 'Bends',
    description: '<p>Bring two</p>',
    facts: factsOf({ isFree: false, isDraft: false, tags: ['oak'] }),
  };
  expect(differences(before, after, [])).toEqual([
    { field: 'title', was: 'Knots', is: 'Bends' },
    { field: 'description', was: 'Bring a rope', is: 'Bring two' },
    { field: 'facts.tags', was: '', is: 'oak' },
  ]);
  expect(differences(before, before, [])).toEqual([]);
});
