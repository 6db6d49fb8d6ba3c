import { useState } from 'react';
import Button from 'react-bootstrap/Button';
import Form from 'react-bootstrap/Form';
import { Link } from 'react-router';
import { asProblem, type Detail, type OpeningRequest } from '../shared/api/client';
import { useActions } from '../shared/data/actions';
import { formatMoment } from '../shared/dates';
import { problemText, useTexts } from '../shared/i18n';
import { DETAILS } from '../shared/reach';

/** Somebody asks for a calendar: opened as far as a keeper likes, or not; and what was answered. */
export const RequestRow = ({ request }: { request: OpeningRequest }) => {
  const { t, language } = useTexts();
  const actions = useActions();
  const [remark, setRemark] = useState('');
  const [problem, setProblem] = useState<string | null>(null);
  const answer = (given: Detail) =>
    void actions
      .answerRequest(request, given, remark)
      .catch((error: unknown) => setProblem(problemText(t, asProblem(error))));
  const audience = t(`request.to.${request.audience as 'members' | 'linkHolders' | 'everyone'}`);
  return (
    <li className={request.given === null ? 'proposal request' : 'proposal request is-decided'}>
      <p className="proposal-line">
        <strong>{request.calendar}</strong>{' '}
        <span className="proposal-kind">{t('request.kind', { what: t(`reach.${request.detail}`), audience })}</span>
        <span className="quiet">
          {t(request.isMine ? 'request.mine' : 'request.from', {
            person: request.person ?? t('history.nobody'),
            publication: request.publication,
          })}{' '}
          · {formatMoment(request.askedAt, language)}
        </span>
        {request.remark && <q>{request.remark}</q>}
      </p>
      {request.mayAnswer && (
        <div className="request-answer">
          <Form.Control
            size="sm"
            aria-label={t('request.word')}
            placeholder={t('request.word')}
            value={remark}
            onChange={(e) => setRemark(e.target.value)}
          />
          {DETAILS.slice(1).map((given) => (
            <Button
              key={given}
              size="sm"
              variant={given === request.detail ? 'primary' : 'outline-primary'}
              aria-label={t('request.openAs', { calendar: request.calendar, what: t(`reach.${given}`) })}
              onClick={() => answer(given)}
            >
              {t('request.open', { what: t(`reach.${given}`) })}
            </Button>
          ))}
          <Button size="sm" variant="outline-danger" onClick={() => answer('nothing')}>
            {t('request.no')}
          </Button>
        </div>
      )}
      {request.given !== null && (
        <p className="proposal-state">
          {request.given === 'nothing'
            ? t('request.refused')
            : t('request.opened', { what: t(`reach.${request.given}`) })}
          {request.answeredBy && ` · ${request.answeredBy}`}
          {request.answerRemark && <q>{request.answerRemark}</q>}
        </p>
      )}
      {request.given === null && !request.mayAnswer && <p className="proposal-state">{t('proposal.answer.open')}</p>}
      {request.isMine && <Link to={`/publish/${request.publicationId}`}>{request.publication}</Link>}
      {problem && (
        <p className="notice notice-danger" role="alert">
          {problem}
        </p>
      )}
    </li>
  );
};
