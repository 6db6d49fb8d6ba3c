import { useCallback, useEffect, useRef, useState } from 'react';
import Button from 'react-bootstrap/Button';
import { Link, useSearchParams } from 'react-router';
import { asProblem, type Answer, type Calendar, type Proposal, type Session } from '../shared/api/client';
import { dayOf, monday } from '../shared/dates';
import { problemText, useTexts } from '../shared/i18n';
import { markClass, Spine } from '../shared/parts/Spine';
import { Told } from '../shared/parts/Told';
import { isTyping, useUndo } from '../shared/data/undo';
import { useActions } from '../shared/data/actions';
import { useCalendars } from '../shared/data/useCalendars';
import { Asks, Decide, ProposalBody, useWhen } from './ProposalBody';
import { ReviseSheet } from './ReviseSheet';
import { isUndecided, useProposals, waits } from '../shared/data/useProposals';
import { isAsked, useRequests } from '../shared/data/useRequests';
import { RequestRow } from './RequestRow';
import './proposals.scss';

const KEYS: Record<string, Exclude<Answer, 'open'>> = { a: 'approved', b: 'sentBack', d: 'declined' };

/** What waits for the person, decided by keys one after the other; and what became of what they proposed. */
export const ProposalsPage = ({ school }: { school: Session['school'] }) => {
  const { t } = useTexts();
  const { undoLast } = useUndo();
  const proposals = useProposals();
  const known = useCalendars(school.today);
  const [params] = useSearchParams();
  const [opened, setOpened] = useState<string | null>(params.get('at'));
  const [pressed, setPressed] = useState<{ id: string; answer: Exclude<Answer, 'open'> } | null>(null);
  const [revising, setRevising] = useState<Proposal | null>(null);
  const list = useRef<HTMLDivElement>(null);
  const all = proposals.data ?? [];
  const requests = useRequests().data ?? [];
  const asked = requests.filter(isAsked);
  const otherRequests = requests.filter((r) => !isAsked(r)).toReversed();
  const waiting = all.filter(waits);
  const mine = all.filter((p) => p.isMine);
  const others = all.filter((p) => !p.isMine && !waits(p));
  // The first that waits is open without a click; a link opens the one it means.
  const shown = opened ?? waiting[0]?.id ?? null;

  const step = useCallback(
    (by: 1 | -1) => {
      const ids = waiting.map((p) => p.id);
      const at = ids.indexOf(shown ?? '');
      const next = ids[Math.min(ids.length - 1, Math.max(0, at + by))];
      if (!next) return;
      setOpened(next);
      requestAnimationFrame(() => list.current?.querySelector<HTMLElement>(`[data-proposal="${next}"]`)?.focus());
    },
    [waiting, shown],
  );
  useEffect(() => {
    const onKey = (e: KeyboardEvent) => {
      if (isTyping(e.target) || e.ctrlKey || e.metaKey || e.altKey || revising) return;
      const key = e.key.toLowerCase();
      const answer = KEYS[key];
      if (key === 'j' || key === 'k') step(key === 'j' ? 1 : -1);
      else if (key === 'u') undoLast();
      else if (answer && shown) setPressed({ id: shown, answer });
      else return;
      e.preventDefault();
    };
    addEventListener('keydown', onKey);
    return () => removeEventListener('keydown', onKey);
  }, [step, undoLast, shown, revising]);

  if (proposals.error) return <Told problem={asProblem(proposals.error)} />;
  if (!proposals.data || !known.data) return <p className="loading">{t('loading')}</p>;
  const calendars = known.data;
  const row = (proposal: Proposal) => (
    <Row
      key={proposal.id}
      proposal={proposal}
      calendars={calendars}
      isOpen={shown === proposal.id}
      onToggle={() => setOpened(shown === proposal.id ? '' : proposal.id)}
      pressed={pressed?.id === proposal.id ? pressed : null}
      onDecided={() => {
        const at = waiting.findIndex((p) => p.id === proposal.id);
        setOpened((waiting[at + 1] ?? waiting[at - 1])?.id ?? null);
      }}
      onRevise={() => setRevising(proposal)}
    />
  );

  return (
    <main className="proposals">
      <div className="page-head">
        <h1>{t('proposal.title')}</h1>
        {waiting.length + asked.length > 0 && (
          <p className="quiet">{t('proposal.count', { count: waiting.length + asked.length })}</p>
        )}
      </div>
      <div className={revising ? 'plan-body with-sheet' : 'plan-body'}>
        <div className="proposals-body" ref={list}>
          {all.length + requests.length === 0 && <p>{t('proposal.none')}</p>}
          {asked.length > 0 && (
            <section aria-label={t('request.waiting')}>
              <h2>{t('request.waiting')}</h2>
              <ul>
                {asked.map((r) => (
                  <RequestRow key={r.id} request={r} />
                ))}
              </ul>
            </section>
          )}
          {waiting.length > 0 && (
            <section aria-label={t('proposal.waiting')}>
              <h2>{t('proposal.waiting')}</h2>
              <p className="quiet proposal-keys">{t('proposal.keys')}</p>
              <ul>{waiting.map(row)}</ul>
            </section>
          )}
          {mine.length > 0 && (
            <section aria-label={t('proposal.mine')}>
              <h2>{t('proposal.mine')}</h2>
              <ul>{mine.toReversed().map(row)}</ul>
            </section>
          )}
          {otherRequests.length > 0 && (
            <section aria-label={t('request.others')}>
              <h2>{t('request.others')}</h2>
              <ul>
                {otherRequests.map((r) => (
                  <RequestRow key={r.id} request={r} />
                ))}
              </ul>
            </section>
          )}
          {others.length > 0 && (
            <section aria-label={t('proposal.others')}>
              <h2>{t('proposal.others')}</h2>
              <ul>{others.toReversed().map(row)}</ul>
            </section>
          )}
        </div>
        {revising && (
          <ReviseSheet key={revising.id} proposal={revising} calendars={calendars} onClose={() => setRevising(null)} />
        )}
      </div>
    </main>
  );
};

interface RowProps {
  proposal: Proposal;
  calendars: Calendar[];
  isOpen: boolean;
  onToggle: () => void;
  pressed: { answer: Exclude<Answer, 'open'> } | null;
  onDecided: () => void;
  onRevise: () => void;
}

const Row = ({ proposal, calendars, isOpen, onToggle, pressed, onDecided, onRevise }: RowProps) => {
  const { t } = useTexts();
  const when = useWhen();
  const asked = proposal.asks
    .map((ask) => calendars.find((c) => c.id === ask.calendarId))
    .filter((c) => c !== undefined);
  const kind = proposal.offered.inBin ? 'gone' : proposal.before ? 'change' : 'new';
  const states = [...new Set(proposal.asks.map((ask) => t(`proposal.answer.${ask.answer}`)))];
  const first = dayOf(proposal.offered.timing.start);
  return (
    <li className={`proposal ${markClass(asked[0]?.mark ?? 1)}${isUndecided(proposal) ? '' : ' is-decided'}`}>
      <button
        type="button"
        className="proposal-head"
        data-proposal={proposal.id}
        aria-expanded={isOpen}
        onClick={onToggle}
      >
        <Spine />
        <span className="proposal-line">
          <strong>{proposal.offered.title}</strong> <span className="proposal-kind">{t(`proposal.kind.${kind}`)}</span>
          <span className="quiet">
            {proposal.isMine
              ? t('proposal.toWhom', { calendars: [...new Set(asked.map((c) => c.title))].join(', ') })
              : t('proposal.from', {
                  person: proposal.person ?? t('history.nobody'),
                  calendars: [...new Set(asked.map((c) => c.title))].join(', '),
                })}{' '}
            · {when(proposal.offered)}
          </span>
        </span>
        <span className="proposal-state">{states.join(' · ')}</span>
      </button>
      {isOpen && (
        <div className="proposal-open">
          <ProposalBody proposal={proposal} calendars={calendars} />
          <Asks proposal={proposal} calendars={calendars} />
          <Decide proposal={proposal} calendars={calendars} pressed={pressed} onDecided={onDecided} hasKeys />
          <div className="proposal-foot">
            <Link to={`/plan?form=lanes&from=${monday(first)}&days=7`}>{t('proposal.look')}</Link>
            {proposal.isMine && isUndecided(proposal) && <Own proposal={proposal} onRevise={onRevise} />}
          </div>
        </div>
      )}
    </li>
  );
};

/** What a proposer does with their own. */
const Own = ({ proposal, onRevise }: { proposal: Proposal; onRevise: () => void }) => {
  const { t } = useTexts();
  const actions = useActions();
  const [problem, setProblem] = useState<string | null>(null);
  const isApproved = proposal.asks.some((ask) => ask.answer === 'approved');
  return (
    <>
      {proposal.isNew && !isApproved && (
        <Button variant="outline-primary" size="sm" onClick={onRevise}>
          {t('proposal.revise')}
        </Button>
      )}
      <Button
        variant="outline-danger"
        size="sm"
        onClick={() =>
          void actions.withdraw(proposal).catch((error: unknown) => setProblem(problemText(t, asProblem(error))))
        }
      >
        {t('proposal.withdraw')}
      </Button>
      {problem && (
        <span className="notice notice-danger" role="alert">
          {problem}
        </span>
      )}
    </>
  );
};
