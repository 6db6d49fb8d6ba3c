// Writes one event of the school diary again and again: node bench/writer.mjs ADDRESS WRITES_A_SECOND SECONDS [CALENDAR]. Prints
// how many writes a second there were.
const [base, rate, seconds, title = 'School diary'] = process.argv.slice(2);
const signedIn = await fetch(`${base}/api/session`, {
  method: 'POST',
  headers: { 'content-type': 'application/json', origin: base },
  body: JSON.stringify({ email: 'marit.quill@lanternfell.example', password: 'lantern by night' }),
});
const headers = {
  'content-type': 'application/json',
  origin: base,
  cookie: signedIn.headers.getSetCookie()[0].split(';')[0],
};
const ask = async (method, path, body) => {
  const answer = await fetch(base + path, { method, headers, body: body && JSON.stringify(body) });
  if (!answer.ok) throw new Error(`${method} ${path}: ${answer.status} ${await answer.text()}`);
  return answer.json();
};
const board = await ask('GET', '/api/board?from=2026-11-23&to=2026-11-30');
const calendar = board.calendars.find((c) => c.title === title);
const body = (n, version) => ({
  calendarId: calendar.id,
  title: `Written ${n}`,
  place: '',
  description: '',
  version,
  timing: { kind: 'allDay', start: '2026-12-01T00:00:00', end: '2026-12-01T00:00:00', zone: null },
});
const event = await ask('POST', '/api/events', body(0));
const begun = performance.now();
let n = 0;
while (performance.now() - begun < seconds * 1000) {
  const due = begun + (n * 1000) / rate;
  if (due > performance.now()) await new Promise((go) => setTimeout(go, due - performance.now()));
  await ask('PUT', `/api/events/${event.id}`, body(++n, event.version + n - 1));
}
console.log((n * 1000) / (performance.now() - begun));
