import { resolve } from 'node:path';

/** What is known of a module while it is decided which file it goes into. */
interface Graph {
  getModuleInfo: (id: string) => { importedIds: readonly string[]; dynamicallyImportedIds: readonly string[] } | null;
}

const src = (name: string) => resolve(import.meta.dirname, 'src', name);

/** What the interface begins with. It waits for what it asks for, so that nobody may wait for it: its file is its own. */
const BEGIN = src('main.tsx');
const WORKSPACE = src('shell/Workspace.tsx');
const WAYS_IN = [src('signin/SignIn.tsx'), src('signin/WayIn.tsx')];
/** Screens in which an event is written, for which much comes that the others never need. */
const OF_EVENTS = [src('board/BoardPage.tsx'), src('proposals/ProposalsPage.tsx'), src('publish/PublishPage.tsx')];

const NAMES = ['begin', 'ways-in', 'shell', 'parts', 'fields', 'event'] as const;

/**
 * The files modules go into, by who needs them: a screen is a few files instead of forty. What a module takes from is
 * needed wherever the module is, so that a file takes only from those before it, which are filled first. Nothing is said
 * of what one screen alone needs: it goes with that screen.
 */
export const chunks = () => {
  let fileOf: ((id: string) => (typeof NAMES)[number] | null) | undefined;

  const divide = (graph: Graph): typeof fileOf & {} => {
    const reachOf = (...from: string[]): Set<string> => {
      const reached = new Set<string>();
      for (let id = from.pop(); id !== undefined; id = from.pop()) {
        if (reached.has(id)) continue;
        reached.add(id);
        from.push(...(graph.getModuleInfo(id)?.importedIds ?? []));
      }
      return reached;
    };
    const begin = reachOf(BEGIN);
    const waysIn = reachOf(...WAYS_IN);
    const shell = reachOf(WORKSPACE);
    const asked = graph.getModuleInfo(WORKSPACE)?.dynamicallyImportedIds ?? [];
    const screens = asked.filter((id) => !waysIn.has(id)).map((id) => ({ id, reached: reachOf(id) }));
    return (id) => {
      if (id === BEGIN) return null;
      if (begin.has(id)) return 'begin';
      if (waysIn.has(id)) return 'ways-in';
      if (shell.has(id)) return 'shell';
      const needing = screens.filter(({ reached }) => reached.has(id));
      if (needing.length < 2) return null;
      if (needing.some((screen) => !OF_EVENTS.includes(screen.id))) return 'parts';
      return needing.length > 2 ? 'fields' : 'event';
    };
  };

  return NAMES.map((name, nth) => ({
    debugName: name,
    priority: NAMES.length - nth,
    name: (id: string, graph: Graph) => ((fileOf ??= divide(graph))(id) === name ? name : null),
  }));
};
