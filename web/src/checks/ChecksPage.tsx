import { useQuery } from '@tanstack/react-query';
import { useState, type SubmitEvent } from 'react';
import Button from 'react-bootstrap/Button';
import Form from 'react-bootstrap/Form';
import { Link } from 'react-router';
import { api, asProblem, type Calendar, type Clash, type Session } from '../shared/api/client';
import { addDays, dayRangeText, monday } from '../shared/dates';
import { problemText, useTexts } from '../shared/i18n';
import { Told } from '../shared/parts/Told';
import { useActions } from '../shared/data/actions';
import { useCalendars } from '../shared/data/useCalendars';
import { dayOfClash, useClashText } from '../shared/useClashText';
import { isMeant, useChecks } from '../shared/data/useChecks';
import './checks.scss';

const KINDS = [
  'tooDense',
  'placeTaken',
  'overCapacity',
  'tooManyTests',
  'onClosure',
  'outsideTerm',
  'twice',
  'linkClosed',
] as const;

/** What does not go together in the time ahead, each to be mended or accepted. */
export const ChecksPage = ({ school }: { school: Session['school'] }) => {
  const { t, language } = useTexts();
  const checks = useChecks();
  const known = useCalendars(school.today);
  // What goes out less than it should is nobody's clash, and told here all the same.
  const publications = useQuery({ queryKey: ['publications'], queryFn: api.publications });
  const quiet = (publications.data ?? []).flatMap((publication) =>
    (publication.troubles ?? []).map((trouble) => ({ publication, trouble })),
  );
  if (checks.error) return <Told problem={asProblem(checks.error)} />;
  if (!checks.data) return <p className="loading">{t('loading')}</p>;
  const { clashes, from, to } = checks.data;
  const calendars = known.data ?? [];
  const open = clashes.filter((c) => c.accepted === null && !isMeant(c));
  const meant = clashes.filter(isMeant);
  const accepted = clashes.filter((c) => c.accepted !== null);
  return (
    <main className="checks">
      <div className="page-head">
        <h1>{t('checks.title')}</h1>
        <p className="quiet">
          {t('checks.count', { count: open.length })} · {dayRangeText(from, addDays(to, -1), language)}
        </p>
      </div>
      <div className="checks-body">
        {open.length === 0 && quiet.length === 0 && <p>{t('checks.none')}</p>}
        {quiet.length > 0 && (
          <section aria-label={t('checks.publications')}>
            <h2>
              {t('checks.publications')} <span className="quiet">{quiet.length}</span>
            </h2>
            <ul>
              {quiet.map(({ publication, trouble }) => (
                <li key={`${publication.id} ${trouble.calendarId}`}>
                  <span className="clash-text">
                    {t(`checks.trouble.${trouble.kind}`, {
                      publication: publication.title,
                      calendar: trouble.calendar,
                    })}
                  </span>{' '}
                  <Link to={`/publish/${publication.id}`}>{t('checks.toPublication')}</Link>
                </li>
              ))}
            </ul>
          </section>
        )}
        {KINDS.map((kind) => {
          const own = open.filter((c) => c.kind === kind);
          return (
            own.length > 0 && (
              <section key={kind} aria-label={t(`checks.kind.${kind}`)}>
                <h2>
                  {t(`checks.kind.${kind}`)} <span className="quiet">{own.length}</span>
                </h2>
                <ul>
                  {own.map((clash) => (
                    <ClashRow key={clash.key} clash={clash} calendars={calendars} />
                  ))}
                </ul>
              </section>
            )
          );
        })}
        {meant.length > 0 && (
          <details>
            <summary>{t('checks.meant', { count: meant.length })}</summary>
            <ul>
              {meant.map((clash) => (
                <ClashRow key={clash.key} clash={clash} calendars={calendars} />
              ))}
            </ul>
          </details>
        )}
        {accepted.length > 0 && (
          <details>
            <summary>{t('checks.accepted', { count: accepted.length })}</summary>
            <ul>
              {accepted.map((clash) => (
                <ClashRow key={clash.key} clash={clash} calendars={calendars} />
              ))}
            </ul>
          </details>
        )}
      </div>
    </main>
  );
};

const ClashRow = ({ clash, calendars }: { clash: Clash; calendars: Calendar[] }) => {
  const { t } = useTexts();
  const text = useClashText();
  const actions = useActions();
  const [accepting, setAccepting] = useState(false);
  const [reason, setReason] = useState('');
  const [forWhat, setForWhat] = useState(clash.key);
  const [problem, setProblem] = useState<string | null>(null);
  const said = text({ clash, calendars });
  const accept = async (e: SubmitEvent) => {
    e.preventDefault();
    try {
      await actions.acceptClash(forWhat, reason);
      setAccepting(false);
    } catch (error) {
      setProblem(problemText(t, asProblem(error)));
    }
  };
  return (
    <li>
      <span className="clash-text">
        {said}
        {clash.accepted !== null && (
          <span className="quiet">
            {' '}
            {t('checks.because', { reason: clash.accepted, person: clash.acceptedBy ?? '' })}
          </span>
        )}
      </span>
      <Link
        to={`/plan?form=lanes&from=${monday(dayOfClash(clash))}&days=7${
          // What is left out stands on no board.
          clash.kind === 'tooDense' ? `&open=${clash.event.eventId}_${clash.event.date}` : ''
        }`}
        aria-label={t('checks.lookAt', { clash: said })}
      >
        {t('checks.look')}
      </Link>
      {isMeant(clash) ? null : clash.accepted === null ? (
        <Button
          variant="link"
          size="sm"
          aria-expanded={accepting}
          aria-label={t('checks.acceptThis', { clash: said })}
          onClick={() => setAccepting(!accepting)}
        >
          {t('checks.accept')}
        </Button>
      ) : (
        <Button
          variant="link"
          size="sm"
          aria-label={t('checks.takeBackThis', { clash: said })}
          onClick={() => void actions.takeBackClash(clash.acceptedKey ?? clash.key, clash.accepted ?? '')}
        >
          {t('checks.takeBack')}
        </Button>
      )}
      {accepting && (
        <form className="clash-reason" onSubmit={(e) => void accept(e)}>
          {clash.series.length > 0 && (
            <Form.Select
              size="sm"
              aria-label={t('checks.whatFor')}
              value={forWhat}
              onChange={(e) => setForWhat(e.target.value)}
            >
              <option value={clash.key}>{t('checks.thisOne')}</option>
              {clash.series.map((series) => (
                <option key={series.key} value={series.key}>
                  {t('checks.everyOf', { title: series.title })}
                </option>
              ))}
            </Form.Select>
          )}
          <Form.Control
            size="sm"
            autoFocus
            aria-label={t('checks.reason')}
            placeholder={t('checks.reasonPlaceholder')}
            value={reason}
            maxLength={300}
            isInvalid={problem !== null}
            onChange={(e) => {
              setReason(e.target.value);
              setProblem(null);
            }}
          />
          <Button size="sm" type="submit">
            {t('checks.accept')}
          </Button>
          {problem && (
            <p className="notice notice-danger" role="alert">
              {problem}
            </p>
          )}
        </form>
      )}
    </li>
  );
};
