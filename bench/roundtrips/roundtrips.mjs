// How often a request goes to the database and back, and how long it takes: one edit, a change of 500 events, a board.
// usage: node bench/roundtrips/roundtrips.mjs [CHECKOUT], built with ./start once.
import { countedServer } from '../counted-server.mjs';

const server = await countedServer(process.argv[2] ?? '.');
const median = (all) => [...all].sort((a, b) => a - b)[Math.floor(all.length / 2)];
const measure = async (name, times, run) => {
  const [counts, took] = [[], []];
  for (let i = 0; i < times; i++) {
    const [before, start] = [server.trips(), performance.now()];
    await run(i);
    counts.push(server.trips() - before);
    took.push(performance.now() - start);
  }
  console.log(`${name}: ${median(counts)} round trips, ${median(took).toFixed(1)} ms (medians of ${times})`);
};

try {
  const ask = await server.person('marit.quill@lanternfell.example');
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
  await server.stop();
}
process.exit(0);
