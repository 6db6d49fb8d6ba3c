import { StrictMode, type ReactNode } from 'react';
import { createRoot } from 'react-dom/client';
import { api, asProblem } from './shared/api/client';
import { loadProblems, loadTexts, startTexts } from './shared/i18n';
import { Trouble } from './shared/parts/Trouble';
import './shared/theme/theme.scss';
import './shared/parts/parts.scss';
import { startTheme } from './shared/theme/mode';

const place = document.getElementById('root');
if (!place) throw new Error('The page has no place for the interface.');
const root = createRoot(place);
const show = (what: ReactNode) => root.render(<StrictMode>{what}</StrictMode>);

// Where links of mails lead, with or without a session.
const PATHS_IN = ['/join', '/new-password', '/new-address', '/first-run'];

const showWorkspace = async () => {
  const [{ Workspace }] = await Promise.all([import('./shell/Workspace'), loadTexts('shell')]);
  show(<Workspace />);
};

/** Whoever has a session gets the workspace; all others a small page that knows nothing of it. */
const begin = async () => {
  const asked = api.installation();
  asked.catch(() => undefined);
  await startTexts();
  try {
    if (PATHS_IN.includes(location.pathname)) {
      const [{ WAYS_IN }] = await Promise.all([import('./signin/WayIn'), loadTexts('signin'), loadProblems()]);
      const WayIn = WAYS_IN[location.pathname];
      show(WayIn && <WayIn />);
      return;
    }
    const installation = await asked;
    if (installation.isSignedIn) {
      await showWorkspace();
      return;
    }
    const [{ SignIn }] = await Promise.all([import('./signin/SignIn'), loadTexts('signin')]);
    show(<SignIn installation={installation} onIn={showWorkspace} />);
  } catch (error) {
    await loadProblems();
    show(<Trouble problem={asProblem(error)} onAgain={() => void begin()} />);
  }
};

startTheme();
await begin();
