import { beforeEach } from 'vitest';
import { ApiProblem } from '../../src/shared/api/client';
import { answers } from './server';
import '../../src/shared/theme/theme.scss';

// The interface asks by fetch; what it asks for in a test the test answers.
const real = globalThis.fetch.bind(globalThis);
globalThis.fetch = async (input, init) => {
  const request = new Request(input, init);
  const { pathname, searchParams } = new URL(request.url);
  if (!pathname.startsWith('/api/')) return real(input, init);
  const answer = answers.get(`${request.method} ${pathname}`);
  if (!answer) return new Response(null, { status: 404 });
  const body: unknown = request.body ? await request.json() : Object.fromEntries(searchParams);
  const result = await answer(body as never);
  return result instanceof Response ? result : Response.json(result);
};

// What the server refuses the interface tells; whatever else goes wrong unheard fails the test.
addEventListener('unhandledrejection', ({ reason }) => {
  if (!(reason instanceof ApiProblem)) reportError(reason);
});

beforeEach(() => {
  answers.clear();
  sessionStorage.clear();
});
