import { readFileSync } from 'node:fs';

/** What each room may take from, beside itself and `shared`: see "The rooms of the interface" in docs/architecture.md. */
const MAY = JSON.parse(readFileSync(new URL('rooms.json', import.meta.url), 'utf8'));

/** Which way the rooms of the house may look. */
const rooms = (...names) => names.map((name) => `^src/${name}/`);
const behindTheDoor = Object.entries(MAY).filter(([room]) => room !== 'shell');

export default {
  forbidden: [
    {
      name: 'no-circles',
      comment: 'No file leads back to itself.',
      severity: 'error',
      from: {},
      to: { circular: true },
    },
    {
      name: 'no-circles-of-folders',
      comment: 'No folder leads back to itself.',
      severity: 'error',
      scope: 'folder',
      from: {},
      to: { circular: true },
    },
    {
      name: 'screens-know-no-other',
      comment: 'Only the shell shows screens.',
      severity: 'error',
      from: { pathNot: '^src/shell/' },
      to: { path: '^src/.*Page\\.tsx$' },
    },
    ...behindTheDoor.map(([room, others]) => ({
      name: `${room}-takes-from`,
      comment: `${room} takes from ${['itself', 'shared', ...others].join(', ')} alone.`,
      severity: 'error',
      from: { path: rooms(room) },
      to: { path: '^src/', pathNot: rooms(room, 'shared', ...others) },
    })),
    {
      name: 'outlet-takes-dates-alone',
      comment: 'What visitors load has nothing of the workspace.',
      severity: 'error',
      from: { path: rooms('outlet') },
      to: { path: '^src/', pathNot: [...rooms('outlet'), '^src/shared/dates\\.ts$'] },
    },
    {
      name: 'every-room-is-known',
      comment: 'A new room is listed in rooms.json, with what it may take from.',
      severity: 'error',
      from: { path: '^src/[^/]+/', pathNot: rooms('outlet', ...Object.keys(MAY)) },
      to: {},
    },
    {
      name: 'nothing-is-left-over',
      comment: 'A file that nobody takes anything from is dead.',
      severity: 'error',
      from: { orphan: true, pathNot: ['^src/main\\.tsx$', '^src/outlet/main\\.tsx$', '\\.d\\.ts$'] },
      to: {},
    },
  ],
  options: {
    tsPreCompilationDeps: true,
    tsConfig: { fileName: 'tsconfig.json' },
    doNotFollow: { path: 'node_modules' },
    includeOnly: '^src/',
    exclude: '\\.(json|scss|css)$',
    enhancedResolveOptions: { extensions: ['.ts', '.tsx'] },
  },
};
