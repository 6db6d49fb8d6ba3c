import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { useEffect, useRef, useState, type SubmitEvent } from 'react';
import Button from 'react-bootstrap/Button';
import Form from 'react-bootstrap/Form';
import { useClashText } from '../shared/useClashText';
import { api, asProblem, type Answer, type Calendar, type EventData, type Proposal } from '../shared/api/client';
import { clockText, dayOf, dayRangeText, longDay } from '../shared/dates';
import { problemText, useTexts } from '../shared/i18n';
import { markClass, Spine } from '../shared/parts/Spine';
import { useActions } from '../shared/data/actions';
import { dateDifferences, differences, useNames } from '../event/differences';
import { sizeText } from '../shared/data/uploads';

/** When an event is, as a sentence; of a series its first date. */
export const useWhen = () => {
  const { t, language } = useTexts();
  return ({ timing }: EventData): string => {
    const [first, last] = [dayOf(timing.start), dayOf(timing.end)];
    if (timing.kind === 'allDay')
      return `${first === last ? longDay(first, language) : dayRangeText(first, last, language)}, ${t('allDay')}`;
    return `${longDay(first, language)}, ${clockText(timing.start, language)}–${clockText(timing.end, language)}`;
  };
};

interface Props {
  proposal: Proposal;
  calendars: Calendar[];
}

/** What is proposed: of a new event all of it, of a change what differs. */
export const ProposalBody = ({ proposal, calendars }: Props) => {
  const { t, language } = useTexts();
  const when = useWhen();
  const clashText = useClashText();
  const { offered, before } = proposal;
  const repeats = useQuery({
    queryKey: ['dates', 'proposal', proposal.id, proposal.version, language],
    queryFn: () =>
      api.dates({
        calendarId: proposal.asks[0]?.calendarId ?? offered.calendarId,
        timing: offered.timing,
        rule: offered.rule,
        follows: offered.follows,
        skips: offered.skips,
        extras: offered.extras,
        around: null,
        language,
        month: null,
      }),
    enabled: offered.rule !== null,
    placeholderData: keepPreviousData,
  });
  const clashes = useQuery({
    queryKey: ['checks', 'proposal', proposal.id, proposal.version],
    queryFn: () => api.proposalClashes(proposal.id),
  });
  const open = clashes.data?.clashes.filter((c) => c.accepted === null) ?? [];
  const names = useNames(calendars);
  const changed = before ? differences(before, offered, names) : [];
  const dates = before ? dateDifferences(before, offered, names) : [];
  return (
    <div className="proposal-body">
      {proposal.remark && <blockquote className="proposal-remark">{proposal.remark}</blockquote>}
      {proposal.isOvertaken && (
        <p className="notice" role="note">
          {t('proposal.overtaken')}
        </p>
      )}
      <p>{when(offered)}</p>
      {repeats.data?.sentence && (
        <p>
          {repeats.data.sentence}
          {repeats.data.total !== null &&
            !offered.rule?.count &&
            ` · ${t('dates.count', { count: repeats.data.total })}`}
        </p>
      )}
      {before ? (
        <>
          {offered.inBin && !before.inBin && <p>{t('proposal.goes')}</p>}
          {(changed.length > 0 || dates.length > 0) && (
            <dl className="proposal-changes">
              {changed.map(({ field, was, is }) => (
                <div key={field}>
                  <dt>{t(`sheet.fieldName.${field}`)}</dt>
                  <dd>
                    <del>{was || t('sheet.nothing')}</del> <span aria-hidden="true">→</span>{' '}
                    <ins>{is || t('sheet.nothing')}</ins>
                  </dd>
                </div>
              ))}
              {dates.map(({ kind, date, what }) => (
                <div key={`${kind} ${date}`}>
                  <dt>{longDay(dayOf(date), language)}</dt>
                  <dd>
                    {t(`dates.became.${kind}`)}
                    {what && ` – ${what}`}
                  </dd>
                </div>
              ))}
            </dl>
          )}
        </>
      ) : (
        <>
          {offered.place && <p>{offered.place}</p>}
          {offered.description && (
            // The server keeps nothing but its own clean form.
            <div className="rich-read" dangerouslySetInnerHTML={{ __html: offered.description }} />
          )}
          {(offered.facts.files ?? []).map((file) => (
            <p key={file.id}>
              <a href={`/api/proposals/${proposal.id}/files/${file.id}/${encodeURIComponent(file.name)}`} download>
                {file.name}
              </a>{' '}
              <span className="quiet">{sizeText(file.size, language)}</span>
            </p>
          ))}
        </>
      )}
      {proposal.added.map((e) => (
        <p key={e.id}>{t('proposal.comesWith', { title: e.title, when: when(e) })}</p>
      ))}
      {open.length > 0 && (
        <ul className="draft-clashes" aria-label={t('clash.label')}>
          {open.map((clash) => (
            <li key={clash.key}>{clashText({ clash, calendars, beside: offered.id })}</li>
          ))}
        </ul>
      )}
      {clashes.data && open.length === 0 && <p className="quiet">{t('proposal.noClash')}</p>}
    </div>
  );
};

/** What each calendar's keepers said. */
export const Asks = ({ proposal, calendars }: Props) => {
  const { t, language } = useTexts();
  const actions = useActions();
  const [problem, setProblem] = useState<string | null>(null);
  return (
    <>
      <ul className="proposal-asks" aria-label={t('proposal.asks')}>
        {proposal.asks.map((ask) => {
          const calendar = calendars.find((c) => c.id === ask.calendarId);
          const by = ask.by && ask.at ? { name: ask.by, day: longDay(dayOf(ask.at), language) } : null;
          return (
            <li key={`${ask.calendarId} ${ask.kind}`} className={calendar ? markClass(calendar.mark) : ''}>
              <Spine />
              <span>
                {calendar?.title} <strong>{t(`proposal.answer.${ask.answer}`)}</strong>
                {by && <span className="quiet"> {t('proposal.by', by)}</span>}
                {ask.kind === 'moving' && (
                  <span className="quiet">
                    {' '}
                    {t('proposal.moving', {
                      calendar: calendars.find((c) => c.id === proposal.offered.calendarId)?.title ?? '',
                    })}
                  </span>
                )}
                {ask.remark && <q>{ask.remark}</q>}
              </span>
              {ask.mayTakeBack && ask.answer !== 'sentBack' && (
                <Button
                  variant="link"
                  size="sm"
                  aria-label={t('proposal.takeBackFor', { calendar: calendar?.title ?? '' })}
                  onClick={() =>
                    void actions
                      .reopen(proposal, [ask.calendarId])
                      .catch((error: unknown) => setProblem(problemText(t, asProblem(error))))
                  }
                >
                  {t('proposal.takeBack')}
                </Button>
              )}
            </li>
          );
        })}
      </ul>
      {problem && (
        <p className="notice notice-danger" role="alert">
          {problem}
        </p>
      )}
    </>
  );
};

interface DecideProps extends Props {
  /** An answer whose key was pressed; left out where keys are not listened to. */
  pressed?: { answer: Exclude<Answer, 'open'> } | null;
  onDecided: () => void;
  hasKeys?: boolean;
}

/** The answer of a calendar's keeper: for all calendars they keep, or some of them. */
export const Decide = ({ proposal, calendars, pressed = null, onDecided, hasKeys }: DecideProps) => {
  const { t } = useTexts();
  const actions = useActions();
  const own = proposal.asks.filter((ask) => ask.mayDecide);
  const ids = [...new Set(own.map((ask) => ask.calendarId))];
  const [left, setLeft] = useState<string[]>([]);
  const [saying, setSaying] = useState<'sentBack' | 'declined' | null>(null);
  const [remark, setRemark] = useState('');
  const [problem, setProblem] = useState<string | null>(null);
  const [busy, setBusy] = useState(false);
  const chosen = ids.filter((id) => !left.includes(id));
  const field = useRef<HTMLInputElement>(null);
  useEffect(() => field.current?.focus(), [saying]);

  const send = async (answer: Exclude<Answer, 'open'>) => {
    if (busy || chosen.length === 0) return;
    setBusy(true);
    try {
      await actions.answer(proposal, chosen, answer, answer === 'approved' ? '' : remark);
      setSaying(null);
      setRemark('');
      onDecided();
    } catch (error) {
      setProblem(problemText(t, asProblem(error)));
    } finally {
      setBusy(false);
    }
  };
  const pick = (answer: Exclude<Answer, 'open'>) => {
    setProblem(null);
    if (answer === 'approved') void send(answer);
    else setSaying(answer);
  };
  const latest = useRef(pick);
  useEffect(() => {
    latest.current = pick;
  });
  useEffect(() => {
    if (pressed) latest.current(pressed.answer);
  }, [pressed]);
  if (own.length === 0) return null;

  return (
    <div className="proposal-decide">
      {ids.length > 1 && (
        <fieldset>
          <legend className="quiet">{t('proposal.for')}</legend>
          {ids.map((id) => {
            const title = calendars.find((c) => c.id === id)?.title ?? '';
            return (
              <Form.Check
                key={id}
                id={`for-${proposal.id}-${id}`}
                label={title}
                checked={!left.includes(id)}
                onChange={(e) => setLeft(e.target.checked ? left.filter((x) => x !== id) : [...left, id])}
              />
            );
          })}
        </fieldset>
      )}
      <div className="proposal-buttons">
        <Button
          disabled={busy || chosen.length === 0}
          onClick={() => pick('approved')}
          aria-keyshortcuts={hasKeys ? 'a' : undefined}
        >
          {t('proposal.approve')} {hasKeys && <kbd>A</kbd>}
        </Button>
        <Button
          variant="outline-primary"
          disabled={busy}
          aria-expanded={saying === 'sentBack'}
          onClick={() => pick('sentBack')}
          aria-keyshortcuts={hasKeys ? 'b' : undefined}
        >
          {t('proposal.sendBack')} {hasKeys && <kbd>B</kbd>}
        </Button>
        <Button
          variant="outline-danger"
          disabled={busy}
          aria-expanded={saying === 'declined'}
          onClick={() => pick('declined')}
          aria-keyshortcuts={hasKeys ? 'd' : undefined}
        >
          {t('proposal.decline')} {hasKeys && <kbd>D</kbd>}
        </Button>
      </div>
      {saying && (
        <form
          className="proposal-say"
          onSubmit={(e: SubmitEvent) => {
            e.preventDefault();
            void send(saying);
          }}
        >
          <Form.Control
            ref={field}
            aria-label={t(`proposal.say.${saying}`)}
            placeholder={t(`proposal.say.${saying}`)}
            value={remark}
            maxLength={500}
            onChange={(e) => setRemark(e.target.value)}
            onKeyDown={(e) => {
              if (e.key !== 'Escape') return;
              e.preventDefault();
              setSaying(null);
            }}
          />
          <Button type="submit" disabled={busy}>
            {t(`proposal.send.${saying}`)}
          </Button>
        </form>
      )}
      {problem && (
        <p className="notice notice-danger" role="alert">
          {problem}
        </p>
      )}
    </div>
  );
};
