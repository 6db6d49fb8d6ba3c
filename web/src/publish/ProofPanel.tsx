import { useQuery } from '@tanstack/react-query';
import { Link } from 'react-router';
import { api, ApiProblem, asProblem, type Differences, type Proof, type Publication } from '../shared/api/client';
import { formatMoment } from '../shared/dates';
import { problemText, useTexts } from '../shared/i18n';

/** What goes out of a publication, or with `draft` would. */
export const proofQuery = (publication: Publication | null, draft: boolean) => ({
  queryKey: ['proof', publication?.id, publication?.version, draft],
  queryFn: () => api.proof(publication?.id ?? '', draft),
});

export const useProof = (publication: Publication | null, draft: boolean) =>
  useQuery({
    ...proofQuery(publication, draft),
    enabled: publication !== null,
    // What was is shown until what is has come.
    placeholderData: (before, query) => (query?.queryKey[1] === publication?.id ? before : undefined),
  });

/** Exactly what goes out, checked, and what may be wrong with it. */
export const ProofPanel = ({ publication }: { publication: Publication }) => {
  const { t, language } = useTexts();
  const proof = useProof(publication, publication.hasChanges || !publication.isPublished);
  if (!proof.data)
    return <p className="loading">{proof.error ? problemText(t, asProblem(proof.error)) : t('loading')}</p>;
  const { readBack, sources = [] } = proof.data;
  const isTrue = readBack.missing.length === 0 && readBack.extra.length === 0;
  return (
    <div className="panel proof-panel" aria-label={t('proof.title')} role="region">
      {publication.hasChanges && <p className="notice">{t('proof.ofChanges')}</p>}
      <section>
        <h3>{t('proof.doubts')}</h3>
        {proof.data.warnings.length === 0 ? (
          <p className="good">{t('proof.noDoubts')}</p>
        ) : (
          <ul className="doubts">
            {proof.data.warnings.map((w, i) => (
              <li key={i}>
                <strong>{t(`proof.doubt.${w.doubt}`)}</strong>{' '}
                {w.eventId ? <Link to={`/plan?event=${w.eventId}`}>{w.about}</Link> : w.about}
              </li>
            ))}
          </ul>
        )}
      </section>
      <section>
        <h3>{t('proof.readBack')}</h3>
        <p className={isTrue ? 'good' : 'notice notice-danger'}>
          {t(isTrue ? 'proof.readBackGood' : 'proof.readBackBad', {
            count: readBack.dates,
            days: readBack.days,
            size: Math.ceil(readBack.bytes / 1024),
          })}
        </p>
        {!isTrue && (
          <ul>
            {readBack.missing.map((line) => (
              <li key={line}>{t('proof.missing', { line })}</li>
            ))}
            {readBack.extra.map((line) => (
              <li key={line}>{t('proof.extra', { line })}</li>
            ))}
          </ul>
        )}
      </section>
      {sources.length > 0 && (
        <section>
          <h3>{t('proof.sources')}</h3>
          <ul>
            {sources.map((s) => (
              <li key={s.lane}>
                <strong>{s.lane}</strong>{' '}
                <span className="quiet">
                  {s.calendars.join(', ')} ·{' '}
                  {s.readAt ? t('proof.sourceRead', { at: formatMoment(s.readAt, language) }) : t('proof.sourceNever')}
                </span>
                {s.problem && <> {problemText(t, new ApiProblem(0, s.problem, s.problem))}</>}
              </li>
            ))}
          </ul>
        </section>
      )}
      <section>
        <h3>{t('proof.next')}</h3>
        <table>
          <thead>
            <tr>
              <th>{t('proof.onPage')}</th>
              <th>{t('proof.inFeed')}</th>
            </tr>
          </thead>
          <tbody>
            {proof.data.next.map((line, i) => (
              <tr key={i} className={line.calledOff ? 'is-off' : ''}>
                <td>{line.page}</td>
                <td>
                  {line.feed}
                  {line.place && <span className="quiet"> · {line.place}</span>}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
        {proof.data.next.length === 0 && <p className="quiet">{t('proof.nothingNext')}</p>}
      </section>
      <section>
        <h3>{t('proof.heldBack')}</h3>
        {proof.data.heldBack.length === 0 && <p className="good">{t('proof.nothingHeld')}</p>}
        <ul>
          {proof.data.heldBack.map((h) => (
            <li key={`${h.calendarId} ${h.reason}`}>
              <strong>{h.title}</strong>: {t('proof.heldEvents', { count: h.events })} ({t(`proof.reason.${h.reason}`)})
            </li>
          ))}
        </ul>
      </section>
      {proof.data.sincePublished && (
        <section>
          <h3>{t('proof.since')}</h3>
          <DifferenceList differences={proof.data.sincePublished} />
        </section>
      )}
    </div>
  );
};

export const DifferenceList = ({ differences }: { differences: Differences }) => {
  const { t } = useTexts();
  if (differences.first.length === 0) return <p className="quiet">{t('proof.noDifference')}</p>;
  return (
    <>
      <p>
        {(['added', 'changed', 'removed'] as const)
          .filter((step) => differences[step] > 0)
          .map((step) => t(`proof.step.${step}`, { count: differences[step] }))
          .join(', ')}
      </p>
      <ul className="differences">
        {differences.first.map((d, i) => (
          <li key={i} className={`is-${d.step}`}>
            <span className="quiet">{t(`proof.stepShort.${d.step}`)}</span> {d.title ?? t('proof.timesOnly')}
          </li>
        ))}
      </ul>
    </>
  );
};

/** What was chosen otherwise, by name, with what it was where that can be said in a word. */
export const ChosenOtherwise = ({ choices }: { choices: NonNullable<Proof['waitingChoices']> }) => {
  const { t } = useTexts();
  if (choices.length === 0) return null;
  const said = (value: string | null) =>
    value === null || value === ''
      ? t('proof.nothing')
      : value === 'yes'
        ? t('proof.choiceYes')
        : value === 'no'
          ? t('proof.choiceNo')
          : value;
  return (
    <>
      <h4>{t('proof.choices')}</h4>
      <ul className="differences">
        {choices.map((c) => {
          const choice = t(`proof.choice.${c.choice as 'title'}`);
          return (
            <li key={c.choice}>
              {c.before === null && c.after === null
                ? choice
                : t('proof.choiceFromTo', { choice, before: said(c.before), after: said(c.after) })}
            </li>
          );
        })}
      </ul>
    </>
  );
};

/** Under the preview: how many go out, what is held back and why. */
export const ProofStrip = ({ proof }: { proof: Proof }) => {
  const { t } = useTexts();
  const held = proof.heldBack.reduce((sum, h) => sum + h.events, 0);
  return (
    <div className={held > 0 ? 'proof has-held' : 'proof'} role="status">
      <span>
        <strong>{proof.events}</strong> {t('proof.goOut', { count: proof.events })}
      </span>
      {held > 0 ? (
        <span>
          <strong>{held}</strong> {t('proof.held', { count: held })}:{' '}
          {proof.heldBack.map((h) => `${h.title} (${t(`proof.reason.${h.reason}`)})`).join(', ')}
        </span>
      ) : (
        <span className="quiet">{t('proof.nothingHeld')}</span>
      )}
      {proof.warnings.length > 0 && <span>{t('proof.toLookAt', { count: proof.warnings.length })}</span>}
    </div>
  );
};
