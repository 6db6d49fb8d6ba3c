// Writers, readers and what they saw: node bench/district.mjs PROXY ONE TWO FOLDER, until FOLDER/end is there. Acknowledged titles go to
// FOLDER/acknowledged.
import { appendFileSync, existsSync, readFileSync, writeFileSync } from 'node:fs';

const [proxy, one, two, folder] = process.argv.slice(2);
const base = `http://127.0.0.1:${proxy}`;
const outlets = ['/p/lanternfell', '/p/lanternfell/embed', '/p/lanternfell/feed.ics', '/p/families/feed.ics'];
const isOver = () => existsSync(`${folder}/end`);
const wait = (ms) => new Promise((go) => setTimeout(go, ms));
const signIn = async (at) => {
  const answer = await fetch(`${at}/api/session`, {
    method: 'POST',
    headers: { 'content-type': 'application/json', origin: at },
    body: JSON.stringify({ email: 'marit.quill@lanternfell.example', password: 'lantern by night' }),
  });
  return { 'content-type': 'application/json', origin: base, cookie: answer.headers.getSetCookie()[0].split(';')[0] };
};
const headers = await signIn(base);
const board = await (await fetch(`${base}/api/board?from=2026-11-23&to=2026-11-30`, { headers })).json();
const calendarId = board.calendars.find((c) => c.title === 'School diary').id;
const write = (at, title) =>
  fetch(`${at}/api/events`, {
    method: 'POST',
    headers: { ...headers, origin: at },
    signal: AbortSignal.timeout(15_000),
    body: JSON.stringify({
      calendarId,
      title,
      place: '',
      description: '',
      timing: { kind: 'allDay', start: '2026-12-01T00:00:00', end: '2026-12-01T00:00:00', zone: null },
    }),
  });

// Warm on both, and how soon what one does is out on the other.
for (const port of [one, two]) for (const outlet of outlets) await fetch(`http://127.0.0.1:${port}${outlet}`);
const lags = [];
for (let i = 0; i < 20; i++) {
  const title = `Kept lag ${i}`;
  const answer = await write(base, title);
  if (answer.ok) appendFileSync(`${folder}/acknowledged`, title + '\n');
  const begun = performance.now();
  for (const port of [one, two])
    while (!(await (await fetch(`http://127.0.0.1:${port}/p/lanternfell/feed.ics`)).text()).includes(title))
      await wait(5);
  lags.push(performance.now() - begun);
}
lags.sort((a, b) => a - b);
writeFileSync(`${folder}/warm`, '');

const seen = { reads: 0, errors: [], refused: 0 };
const acknowledged = [];
const writer = async (id) => {
  for (let n = 0; !isOver(); n++) {
    const title = `Kept ${id} ${n}`;
    try {
      const answer = await write(base, title);
      if (answer.ok) {
        acknowledged.push(Date.now());
        appendFileSync(`${folder}/acknowledged`, title + '\n');
      } else {
        seen.refused++;
        await wait(100);
      }
    } catch {
      seen.refused++;
      await wait(100);
    }
    await wait(60);
  }
};
const reader = async (id) => {
  for (let n = id; !isOver(); n++) {
    const outlet = outlets[n % outlets.length];
    try {
      const answer = await fetch(base + outlet);
      await answer.arrayBuffer();
      if (answer.status !== 200) seen.errors.push(`${Date.now()} ${outlet} ${answer.status}`);
    } catch (error) {
      seen.errors.push(`${Date.now()} ${outlet} ${error.cause?.code ?? error.message}`);
    }
    seen.reads++;
    await wait(10);
  }
};
await Promise.all([...Array(3).keys()].map(writer).concat([...Array(8).keys()].map(reader)));
acknowledged.sort((a, b) => a - b);
const told = readFileSync(`${folder}/told`, 'utf8')
  .trim()
  .split('\n')
  .map((l) => [Number(l.split(' ')[0]), l.slice(14)]);
for (const [at, what] of told) {
  const next = acknowledged.find((t) => t > at);
  const last = acknowledged.filter((t) => t <= (next ?? Infinity) && t !== next).at(-1);
  console.log(`${what}: ${(((next ?? NaN) - Math.min(last, at)) / 1000).toFixed(1)} s between two writes around it`);
}
console.log(
  `a change is out on both servers after ${lags[10].toFixed(0)} ms (middle), ${lags.at(-1).toFixed(0)} ms (longest of ${lags.length})`,
);
console.log(
  `${seen.reads} reads of warm outlets, ${seen.errors.length} errors; ${seen.refused} writes were refused or not answered`,
);
if (seen.errors.length) console.log(seen.errors.slice(0, 8).join('\n'));
writeFileSync(`${folder}/reads`, JSON.stringify(seen));
