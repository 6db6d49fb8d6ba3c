import { useQuery, useQueryClient } from '@tanstack/react-query';
import { useCallback } from 'react';
import { Navigate, Route, Routes, useLocation } from 'react-router';
import { AccountPage } from '../account/AccountPage';
import { LogPage } from '../account/LogPage';
import { applySettings } from '../shared/data/useSettings';
import { MembersPage } from '../members/MembersPage';
import { Publish } from '../publish/PublishPage';
import { api, asProblem } from '../shared/api/client';
import { problemText, useTexts } from '../shared/i18n';
import { UndoProvider } from '../shared/data/undo';
import { useLive } from '../shared/data/useLive';
import { BinPage } from '../bin/BinPage';
import { ChecksPage } from '../checks/ChecksPage';
import { ListsPage } from '../lists/ListsPage';
import { PeoplePage } from '../people/PeoplePage';
import { ProposalsPage } from '../proposals/ProposalsPage';
import { SignIn } from '../signin/SignIn';
import { FirstRun, Join, NewAddress, NewPassword } from '../signin/WayIn';
import { TopBar } from './TopBar';
import { Plan } from '../board/BoardPage';
import { WhoSeesPage } from '../whosees/WhoSeesPage';
import { SchoolYearPage } from '../year/SchoolYearPage';

/** The session, with the interface as its person wants it before anything is drawn. */
const mySession = async () => {
  const session = await api.session();
  applySettings(session.settings);
  return session;
};

export const App = () => {
  const { t } = useTexts();
  const queries = useQueryClient();
  const refresh = useCallback(() => queries.invalidateQueries(), [queries]);
  const { pathname } = useLocation();
  const session = useQuery({ queryKey: ['session'], queryFn: mySession, staleTime: 60_000 });

  if (pathname === '/join') return <Join />;
  if (pathname === '/new-password') return <NewPassword />;
  if (pathname === '/new-address') return <NewAddress />;
  if (pathname === '/first-run') return <FirstRun />;
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
    <UndoProvider refresh={refresh}>
      <Live />
      <TopBar session={session.data} />
      <Routes>
        <Route path="/plan" element={<Plan school={session.data.school} />} />
        <Route
          path="/school-year"
          element={
            <SchoolYearPage
              school={session.data.school}
              isAdministrator={session.data.person.role === 'administrator'}
            />
          }
        />
        <Route path="/checks" element={<ChecksPage school={session.data.school} />} />
        <Route path="/proposals" element={<ProposalsPage school={session.data.school} />} />
        <Route path="/bin" element={<BinPage school={session.data.school} />} />
        <Route
          path="/people"
          element={
            <PeoplePage isAdministrator={session.data.person.role === 'administrator'} me={session.data.person.id} />
          }
        />
        <Route path="/account" element={<AccountPage session={session.data} />} />
        <Route path="/log" element={<LogPage />} />
        <Route path="/who-sees" element={<WhoSeesPage />} />
        <Route path="/lists" element={<ListsPage />} />
        <Route path="/publish/:id?" element={<Publish />} />
        <Route path="/members/:key?" element={<MembersPage />} />
        <Route path="*" element={<ToPlan />} />
      </Routes>
    </UndoProvider>
  );
};

/** Any other address is the plan's, with what it says of the window. */
const ToPlan = () => <Navigate to={{ pathname: '/plan', search: useLocation().search }} replace />;

/** Says when the server cannot be heard; what is typed stays, and it goes on by itself. */
const Live = () => {
  const { t } = useTexts();
  return useLive() ? (
    <p className="lost" role="status">
      {t('lost')}
    </p>
  ) : null;
};
