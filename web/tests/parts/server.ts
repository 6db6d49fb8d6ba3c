/** What the server says in a test: by method and path, from the body or the query. */
export const answers = new Map<string, (given: never) => unknown>();

/** Answers a request in a test, and keeps what was asked. */
export const answer = <T>(request: string, say: (given: T) => unknown): T[] => {
  const asked: T[] = [];
  answers.set(request, (given: T) => {
    asked.push(given);
    return say(given);
  });
  return asked;
};

/** Problem details as the server sends them. */
export const problem = (status: number, code: string): Response =>
  Response.json({ code, detail: code, status }, { status });
