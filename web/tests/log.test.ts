import { describe, expect, it } from 'vitest';
import api from '../src/shared/api/openapi.json';
import en from '../src/account/texts/en.json';

// What the server does not log: nothing is written, or nobody is signed in yet.
const UNLOGGED = [
  'post checks event',
  'post events dates',
  'post events fields',
  'post events plan',
  'post line',
  'post lines',
  'post reach event',
  'post reach opened',
  'post links check',
  'post export events',
  'post bringing look',
  'delete bringing',
  'post sources look',
  'post sources sorting try',
  'post rule',
  'post school-years plan',
  'patch me board',
  'put me settings',
  'post session',
  'post first-run',
  'post forgotten',
  'post invitation',
  'post new-address',
  'post new-password',
];

describe('the log', () => {
  it('has words for everything that can be done', () => {
    const actions = Object.entries(api.paths).flatMap(([path, methods]) =>
      Object.keys(methods)
        .filter((method) => method !== 'get')
        .map((method) =>
          [method, ...path.split('/').filter((part) => part && part !== 'api' && !part.startsWith('{'))].join(' '),
        ),
    );
    const told = Object.keys(en.log.action).map((key) => key.replaceAll('_', ' '));
    expect(told.filter((action) => !actions.includes(action)).sort()).toEqual([
      'new address',
      'sign-in',
      'sign-in failed',
    ]);
    expect(actions.filter((action) => !told.includes(action)).sort()).toEqual([...UNLOGGED].sort());
  });
});
