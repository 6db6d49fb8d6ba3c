// One edit of an event while 200 boards are open: what the screens ask for then, in bytes and in questions to the database.
// First as they did before changes named their events (everything they show), then as they do. Screens of three persons, each
// with a connection of its own; how long it takes until the last one has its answer is told too.
// usage: node bench/live/live.mjs [BOARDS], built with ./start once.
import { get } from 'node:http';
import { countedServer } from '../counted-server.mjs';

const boards = Number(process.argv[2] ?? 200);
const server = await countedServer('.');
const addDays = (day, days) => new Date(Date.parse(day) + days * 864e5).toISOString().slice(0, 10);

/** What a board asks for when it looks at everything anew. */
const whole = (from, to) => [
  '/session',
  `/board?from=${from}&to=${to}`,
  `/year?date=${from}`,
  '/lists',
  '/checks',
  '/proposals',
  '/me/board',
];

try {
  const people = await Promise.all(
    ['marit.quill', 'owen.tarbell', 'samir.dole'].map((name) => server.person(`${name}@lanternfell.example`)),
  );
  const [marit] = people;
  const { today } = (await marit('GET', '/session')).school;
  const from = addDays(today, 1 - (new Date(today).getUTCDay() || 7));
  const to = addDays(from, 7);
  const diary = (await marit('GET', `/board?from=${from}&to=${to}`)).calendars.find((c) => c.title === 'School diary');
  const body = (title, version) => ({
    calendarId: diary.id,
    title,
    place: 'Slip 1',
    description: '',
    version,
    timing: { kind: 'zoned', start: `${addDays(from, 2)}T18:00:00`, end: `${addDays(from, 2)}T19:00:00`, zone: null },
  });
  let event = await marit('POST', '/events', body('Keel'));

  let hear = () => undefined;
  const open = (person) =>
    new Promise((ready, failed) => {
      get(`${server.url}/api/changes`, { headers: { cookie: person.cookie }, agent: false }, (answer) => {
        if (answer.statusCode !== 200) failed(new Error(`/api/changes: ${answer.statusCode}`));
        let rest = '';
        answer.setEncoding('utf8');
        answer.on('data', (text) => {
          rest += text;
          for (let end = rest.indexOf('\n\n'); end >= 0; end = rest.indexOf('\n\n')) {
            const message = rest.slice(0, end);
            rest = rest.slice(end + 2);
            if (message.includes('event: ready')) ready();
            const data = /^data: (.*)$/m.exec(message)?.[1];
            if (message.includes('event: changed') && data) hear(person, JSON.parse(data));
          }
        });
      });
    });
  await Promise.all(Array.from({ length: boards }, (_, i) => open(people[i % people.length])));

  const fetched = async (person, path) => {
    const answer = await fetch(`${server.url}/api${path}`, { headers: { cookie: person.cookie } });
    return (await answer.arrayBuffer()).byteLength;
  };
  const measure = async (name, paths) => {
    const answers = [];
    let screens = 0;
    const all = new Promise((done) => {
      hear = async (person, told) => {
        for (const path of paths(told)) answers.push(await fetched(person, path));
        if (++screens === boards) done();
      };
    });
    const [trips, start] = [server.trips(), performance.now()];
    event = (await marit('PUT', `/events/${event.id}`, body(`${name} ${start}`, event.version))).event;
    await all;
    const bytes = answers.reduce((sum, one) => sum + one, 0);
    console.log(
      `${name}: ${(bytes / boards / 1024).toFixed(1)} KB a board, ${answers.length} answers, ` +
        `${server.trips() - trips} questions to the database, ${(performance.now() - start).toFixed(0)} ms`,
    );
  };
  for (let i = 0; i < 3; i++) {
    await measure('everything anew', () => whole(from, to));
    await measure('what changed', (told) =>
      told.events.map(({ change }) => `/board/changed?from=${from}&to=${to}&change=${change}`),
    );
  }
} finally {
  await server.stop();
}
process.exit(0);
