// How often a request goes to the database and back, and how long it takes: one edit, a change of 500 events, a board.
// Between server and database stands a proxy that counts what asks for an answer (a Sync or a simple Query of the protocol),
// connections that only listen left out. usage: node bench/roundtrips/roundtrips.mjs [CHECKOUT], built with ./start once.
import { spawn, spawnSync } from 'node:child_process';
import { mkdtempSync, readdirSync, rmSync } from 'node:fs';
import net from 'node:net';
import { tmpdir, userInfo } from 'node:os';
import { join, resolve } from 'node:path';

const checkout = resolve(process.argv[2] ?? '.');
const root = userInfo().username === 'root';
const bin = join(
  '/usr/lib/postgresql',
  readdirSync('/usr/lib/postgresql').sort((a, b) => Number(b) - Number(a))[0],
  'bin',
);
const dir = mkdtempSync(join(tmpdir(), 'valtro-trips-'));
const pg = (program, ...args) => {
  const all = [join(bin, program), ...args];
  const [command, ...rest] = root ? ['runuser', '-u', 'postgres', '--', ...all] : all;
  const done = spawnSync(command, rest, { cwd: '/', stdio: 'ignore' });
  if (done.status !== 0) throw new Error(`${program} failed`);
};
const freePort = () =>
  new Promise((got) => {
    const probe = net.createServer().listen(0, '127.0.0.1', () => {
      const { port } = probe.address();
      probe.close(() => got(port));
    });
  });

const [database, between, http] = [await freePort(), await freePort(), await freePort()];
if (root) spawnSync('chown', ['postgres', dir]);
pg('initdb', '-D', join(dir, 'data'), '-U', 'valtro', '-A', 'trust', '-E', 'UTF8', '--locale=C.UTF-8', '--no-sync');
pg(
  'pg_ctl',
  '-D',
  join(dir, 'data'),
  '-w',
  '-l',
  join(dir, 'log'),
  '-o',
  `-c listen_addresses=127.0.0.1 -p ${database} -c unix_socket_directories=${dir}`,
  'start',
);
pg('createdb', '-h', '127.0.0.1', '-p', String(database), '-U', 'valtro', 'valtro');

let trips = 0;
const proxy = net
  .createServer((client) => {
    const server = net.connect(database, '127.0.0.1');
    client.setNoDelay(true);
    server.setNoDelay(true);
    let [rest, isStarted, listens] = [Buffer.alloc(0), false, false];
    client.on('data', (data) => {
      server.write(data);
      rest = Buffer.concat([rest, data]);
      for (;;) {
        // The first message has no type; every later one has one, and its length.
        const head = isStarted ? 1 : 0;
        if (rest.length < head + 4) return;
        const length = head + rest.readUInt32BE(head);
        if (rest.length < length) return;
        const type = isStarted ? String.fromCharCode(rest[0]) : '';
        if (/^[PQ]/.test(type) && rest.subarray(0, length).includes('listen valtro')) listens = true;
        if ((type === 'S' || type === 'Q') && !listens) trips++;
        // A question whether the connection is encrypted comes before the first message.
        if (isStarted || rest.readUInt32BE(4) < 80877102) isStarted = true;
        rest = rest.subarray(length);
      }
    });
    server.on('data', (data) => client.write(data));
    for (const [one, other] of [
      [client, server],
      [server, client],
    ])
      one.on('close', () => other.destroy()).on('error', () => other.destroy());
  })
  .listen(between, '127.0.0.1');

const valtro = spawn(
  'dotnet',
  [join(checkout, 'src/Valtro.Server/bin/Release/net10.0/Valtro.Server.dll'), '--urls', `http://127.0.0.1:${http}`],
  {
    cwd: dir,
    stdio: 'ignore',
    env: {
      ...process.env,
      VALTRO_OWNER_DATABASE: `Host=127.0.0.1;Port=${between};Database=valtro;Username=valtro`,
      VALTRO_DATABASE: `Host=127.0.0.1;Port=${between};Database=valtro;Username=valtro_app`,
      VALTRO_KEYS: join(dir, 'keys'),
      VALTRO_DEMO: 'true',
      VALTRO_ADDRESS: `http://127.0.0.1:${http}`,
      VALTRO_WEB: '/nowhere',
      VALTRO_REQUESTS_A_MINUTE: '100000',
    },
  },
);
let cookie = '';
const ask = async (method, path, body) => {
  const answer = await fetch(`http://127.0.0.1:${http}/api${path}`, {
    method,
    headers: { cookie, origin: `http://127.0.0.1:${http}`, ...(body && { 'content-type': 'application/json' }) },
    ...(body && { body: JSON.stringify(body) }),
  });
  const text = await answer.text();
  if (!answer.ok) throw new Error(`${method} ${path}: ${answer.status} ${text.slice(0, 300)}`);
  cookie = answer.headers.get('set-cookie')?.split(';')[0] ?? cookie;
  return text ? JSON.parse(text) : null;
};
const median = (all) => [...all].sort((a, b) => a - b)[Math.floor(all.length / 2)];
const measure = async (name, times, run) => {
  const [counts, took] = [[], []];
  for (let i = 0; i < times; i++) {
    const [before, start] = [trips, performance.now()];
    await run(i);
    counts.push(trips - before);
    took.push(performance.now() - start);
  }
  console.log(`${name}: ${median(counts)} round trips, ${median(took).toFixed(1)} ms (medians of ${times})`);
};

try {
  for (let i = 0; i < 300; i++) {
    if (
      await fetch(`http://127.0.0.1:${http}/health/ready`).then(
        (a) => a.ok,
        () => false,
      )
    )
      break;
    await new Promise((next) => setTimeout(next, 200));
  }
  await ask('POST', '/session', { email: 'marit.quill@lanternfell.example', password: 'lantern by night' });
  const calendar = await ask('POST', '/calendars', {
    title: 'Measured',
    description: '',
    group: '',
    zone: 'America/Halifax',
    mark: 4,
  });
  await ask('PUT', `/calendars/${calendar.id}/reach`, {
    members: 'everything',
    linkHolders: 'everything',
    everyone: 'everything',
    version: 1,
  });
  await ask('POST', '/publications', {
    key: 'measured',
    title: 'Measured',
    introduction: '',
    calendarIds: [calendar.id],
    firstView: 'month',
    language: 'en',
  });
  const body = (title, version) => ({
    calendarId: calendar.id,
    title,
    place: 'Slip 1',
    description: '',
    version,
    timing: { kind: 'zoned', start: '2044-03-03T09:00:00', end: '2044-03-03T10:00:00', zone: null },
  });
  let event = await ask('POST', '/events', body('Keel'));
  for (let i = 0; i < 20; i++)
    event = (await ask('PUT', `/events/${event.id}`, body(`Warm ${i}`, event.version))).event;
  await measure('one event edited', 60, async (i) => {
    event = (await ask('PUT', `/events/${event.id}`, body(`Keel ${i}`, event.version))).event;
  });
  const many = [];
  for (let i = 0; i < 5; i++)
    many.push(
      ...(await ask('POST', '/events/many', { events: Array.from({ length: 100 }, (_, n) => body(`Spar ${n}`)) })),
    );
  const dates = many.map((e) => ({ eventId: e.id, date: '2044-03-03T09:00:00' }));
  await measure('500 events changed at once', 5, (i) => ask('POST', '/events/bulk', { dates, place: `Quay ${i}` }));
  const monday = (await ask('GET', '/session')).school.today;
  const next = new Date(Date.parse(monday) + 7 * 864e5).toISOString().slice(0, 10);
  await measure('a week of the board', 60, () => ask('GET', `/board?from=${monday}&to=${next}`));
} finally {
  valtro.kill('SIGTERM');
  await new Promise((gone) => (valtro.exitCode === null ? valtro.on('exit', gone) : gone()));
  proxy.close();
  pg('pg_ctl', '-D', join(dir, 'data'), '-m', 'immediate', '-w', 'stop');
  rmSync(dir, { recursive: true, force: true });
}
process.exit(0);
