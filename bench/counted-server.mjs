// A server of its own with the demo school, on a database of its own. Between both stands a proxy that counts what asks for
// an answer (a Sync or a simple Query of the protocol), connections that only listen left out. Built with ./start once.
import { spawn, spawnSync } from 'node:child_process';
import { mkdtempSync, readdirSync, rmSync } from 'node:fs';
import net from 'node:net';
import { tmpdir, userInfo } from 'node:os';
import { join, resolve } from 'node:path';

/** Starts it; `checkout` is the tree whose server it is. */
export const countedServer = async (checkout) => {
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
    [
      join(resolve(checkout), 'src/Valtro.Server/bin/Release/net10.0/Valtro.Server.dll'),
      '--urls',
      `http://127.0.0.1:${http}`,
    ],
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
  const url = `http://127.0.0.1:${http}`;
  for (let i = 0; i < 300; i++) {
    const isReady = await fetch(`${url}/health/ready`).then(
      (a) => a.ok,
      () => false,
    );
    if (isReady) break;
    await new Promise((next) => setTimeout(next, 200));
  }
  /** Somebody who is signed in: asks, and throws what is refused. */
  const person = async (email) => {
    const session = await fetch(`${url}/api/session`, {
      method: 'POST',
      headers: { origin: url, 'content-type': 'application/json' },
      body: JSON.stringify({ email, password: 'lantern by night' }),
    });
    const cookie = session.headers.get('set-cookie')?.split(';')[0] ?? '';
    const ask = async (method, path, body) => {
      const answer = await fetch(`${url}/api${path}`, {
        method,
        headers: { cookie, origin: url, ...(body && { 'content-type': 'application/json' }) },
        ...(body && { body: JSON.stringify(body) }),
      });
      const text = await answer.text();
      if (!answer.ok) throw new Error(`${method} ${path}: ${answer.status} ${text.slice(0, 300)}`);
      return text ? JSON.parse(text) : null;
    };
    return Object.assign(ask, { cookie });
  };
  const stop = async () => {
    valtro.kill('SIGTERM');
    await new Promise((gone) => (valtro.exitCode === null ? valtro.on('exit', gone) : gone()));
    proxy.close();
    pg('pg_ctl', '-D', join(dir, 'data'), '-m', 'immediate', '-w', 'stop');
    rmSync(dir, { recursive: true, force: true });
  };
  return { url, person, trips: () => trips, stop };
};
