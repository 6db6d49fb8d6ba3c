import { QueryClient, QueryClientProvider } from '@tanstack/react-query';
import { StrictMode } from 'react';
import { createRoot } from 'react-dom/client';
import { BrowserRouter } from 'react-router';
import { App } from './shell/App';
import { ApiProblem } from './shared/api/client';
import { startTexts } from './shared/i18n';
import './shared/theme/theme.scss';
import './shared/parts/parts.scss';
import { startTheme } from './shared/theme/mode';
import './shell/shell.scss';

startTheme();
await startTexts();

const queries = new QueryClient({
  defaultOptions: {
    queries: {
      staleTime: 15_000,
      // What the server refused it refuses again; only a lost connection is worth another try.
      retry: (count, error) => count < 2 && (!(error instanceof ApiProblem) || error.status === 0),
    },
  },
});

const root = document.getElementById('root');
if (!root) throw new Error('The page has no place for the workspace.');
createRoot(root).render(
  <StrictMode>
    <QueryClientProvider client={queries}>
      {/* A form belongs to its thing from the moment it is chosen: an address that changes in a transition comes later. */}
      <BrowserRouter useTransitions={false}>
        <App />
      </BrowserRouter>
    </QueryClientProvider>
  </StrictMode>,
);
