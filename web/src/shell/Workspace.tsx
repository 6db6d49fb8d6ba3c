import { QueryClientProvider, useQuery, useQueryClient } from '@tanstack/react-query';
import { lazy, Suspense, useCallback, type ComponentType } from 'react';
import { BrowserRouter, Navigate, Route, Routes, useLocation } from 'react-router';
import { api, ApiProblem, asProblem } from '../shared/api/client';
import { loadTexts, useTexts, type Room } from '../shared/i18n';
import { Trouble } from '../shared/parts/Trouble';
import { draftsOf } from '../shared/data/draftStorage';
import { UndoProvider } from '../shared/data/undo';
import { showInBoards } from '../shared/data/bringIn';
import { Queries } from '../shared/data/queries';
import { useLive } from '../shared/data/useLive';
import { applySettings } from '../shared/data/useSettings';
import { holdWhilePressed } from '../shared/held';
import { Boundary, NotLoaded } from './Boundary';
import { TopBar } from './TopBar';
import './shell.scss';

/** A screen that comes, with its texts, when it is opened. */
const page = <P extends object>(room: Room, load: () => Promise<ComponentType<P>>) =>
  lazy(async () => {
    const [screen] = await Promise.all([load(), loadTexts(room)]).catch((error: unknown) => {
      throw new NotLoaded(`The screen of ${room} is not there.`, { cause: error });
    });
    return { default: screen };
  });

const AccountPage = page('account', async () => (await import('../account/AccountPage')).AccountPage);
const BinPage = page('binned', async () => (await import('../binned/BinPage')).BinPage);
const BoardPage = page('board', async () => (await import('../board/BoardPage')).BoardPage);
const ChecksPage = page('checks', async () => (await import('../checks/ChecksPage')).ChecksPage);
const ElsewherePage = page('elsewhere', async () => (await import('../elsewhere/ElsewherePage')).ElsewherePage);
const LimitsPage = page('account', async () => (await import('../account/LimitsPage')).LimitsPage);
const ListsPage = page('lists', async () => (await import('../lists/ListsPage')).ListsPage);
const LogPage = page('account', async () => (await import('../account/LogPage')).LogPage);
const MembersPage = page('members', async () => (await import('../members/MembersPage')).MembersPage);
const PeoplePage = page('people', async () => (await import('../people/PeoplePage')).PeoplePage);
const ProposalsPage = page('proposals', async () => (await import('../proposals/ProposalsPage')).ProposalsPage);
const PublishPage = page('publish', async () => (await import('../publish/PublishPage')).PublishPage);
const SchoolYearPage = page('year', async () => (await import('../year/SchoolYearPage')).SchoolYearPage);
const SignIn = page('signin', async () => (await import('../signin/SignIn')).SignIn);
const WhoSeesPage = page('whosees', async () => (await import('../whosees/WhoSeesPage')).WhoSeesPage);

const queries = new Queries({
  defaultOptions: {
    queries: {
      staleTime: 15_000,
      // What the server refused it refuses again; only a lost connection is worth another try.
      retry: (count, error) => count < 2 && (!(error instanceof ApiProblem) || error.status === 0),
    },
  },
});

holdWhilePressed();

/** Everything behind the sign-in. */
export const Workspace = () => (
  <QueryClientProvider client={queries}>
    {/* A form belongs to its thing from the moment it is chosen: an address that changes in a transition comes later. */}
    <BrowserRouter useTransitions={false}>
      <Suspense fallback={<Coming />}>
        <Signed />
      </Suspense>
    </BrowserRouter>
  </QueryClientProvider>
);

const Coming = () => <p className="loading">{useTexts().t('loading')}</p>;

/** The session, with the interface as its person wants it before anything is drawn. */
const mySession = async () => {
  const session = await api.session();
  draftsOf(session.person.id);
  await applySettings(session.settings);
  return session;
};

const Signed = () => {
  const { t } = useTexts();
  const cache = useQueryClient();
  const refresh = useCallback(
    (answer: unknown) =>
      Promise.all([
        showInBoards(cache, answer),
        cache.invalidateQueries({ predicate: ({ queryKey }) => queryKey[0] !== 'board' }),
      ]),
    [cache],
  );
  const { pathname } = useLocation();
  const session = useQuery({ queryKey: ['session'], queryFn: mySession, staleTime: 60_000 });

  if (session.isPending) return <Coming />;
  if (session.error) {
    const problem = asProblem(session.error);
    if (problem.status !== 401) return <Trouble problem={problem} onAgain={() => void session.refetch()} />;
    // It has ended meanwhile: what was open comes back when the same person is in again.
    return (
      <SignIn
        installation={{ hasSchool: true, isDemo: false, isSignedIn: false }}
        onIn={() => cache.resetQueries({ queryKey: ['session'] })}
      />
    );
  }
  return (
    <UndoProvider refresh={refresh}>
      <Live />
      <a
        className="skip-link"
        href="#screen"
        onClick={(e) => {
          e.preventDefault();
          const screen = document.querySelector('main');
          if (screen) screen.tabIndex = -1;
          screen?.focus();
        }}
      >
        {t('nav.skip')}
      </a>
      <TopBar session={session.data} />
      <Boundary screen={pathname}>
        <Suspense fallback={<Coming />}>
          <Routes>
            <Route path="/plan" element={<BoardPage school={session.data.school} />} />
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
            <Route
              path="/elsewhere/:id?"
              element={
                <ElsewherePage
                  school={session.data.school}
                  isAdministrator={session.data.person.role === 'administrator'}
                />
              }
            />
            <Route path="/bin" element={<BinPage school={session.data.school} />} />
            <Route
              path="/people"
              element={
                <PeoplePage
                  isAdministrator={session.data.person.role === 'administrator'}
                  me={session.data.person.id}
                />
              }
            />
            <Route path="/account" element={<AccountPage session={session.data} />} />
            <Route path="/limits" element={<LimitsPage />} />
            <Route path="/log" element={<LogPage />} />
            <Route path="/who-sees" element={<WhoSeesPage />} />
            <Route path="/lists" element={<ListsPage />} />
            <Route path="/publish/:id?" element={<PublishPage school={session.data.school} />} />
            <Route path="/members/:key?" element={<MembersPage />} />
            <Route path="*" element={<ToPlan />} />
          </Routes>
        </Suspense>
      </Boundary>
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
