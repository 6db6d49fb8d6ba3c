import { useQuery } from '@tanstack/react-query';
import { Navigate, Route, Routes, useLocation } from 'react-router';
import { Publish } from './publish/Publish';
import { api, asProblem } from './shared/api/client';
import { problemText, useTexts } from './shared/i18n';
import { UndoProvider } from './shared/undo';
import { SignIn } from './signin/SignIn';
import { TopBar } from './workspace/TopBar';
import { Plan } from './workspace/Plan';

export const App = () => {
  const { t } = useTexts();
  const session = useQuery({ queryKey: ['session'], queryFn: api.session, staleTime: 60_000 });

  if (session.isPending) return <p className="loading">{t('loading')}</p>;
  if (session.error) {
    const problem = asProblem(session.error);
    if (problem.status === 401) return <SignIn />;
    return (
      <div className="loading" role="alert">
        <p>{problemText(t, problem)}</p>
        <button type="button" className="btn btn-primary" onClick={() => void session.refetch()}>
          {t('tryAgain')}
        </button>
      </div>
    );
  }
  return (
    <UndoProvider>
      <TopBar session={session.data} />
      <Routes>
        <Route path="/plan" element={<Plan school={session.data.school} />} />
        <Route path="/publish/:id?" element={<Publish />} />
        <Route path="*" element={<ToPlan />} />
      </Routes>
    </UndoProvider>
  );
};

/** Any other address is the plan's, with what it says of the window. */
const ToPlan = () => <Navigate to={{ pathname: '/plan', search: useLocation().search }} replace />;
