import { useState } from 'react';
import Button from 'react-bootstrap/Button';
import { Link } from 'react-router';
import { asProblem, type ApiProblem, type Calendar, type Source } from '../shared/api/client';
import { useActions } from '../shared/data/actions';
import { useTexts } from '../shared/i18n';
import { markClass, Spine } from '../shared/parts/Spine';
import { Told } from '../shared/parts/Told';
import { useStateText } from './state';

/** A source that is followed: its lane, how it is, and what can be done at once. */
export const SourceRow = ({ source, calendar }: { source: Source; calendar: Calendar | undefined }) => {
  const { t } = useTexts();
  const say = useStateText();
  const title = calendar?.title ?? source.host;
  return (
    <li className={`source-row ${markClass(calendar?.mark ?? 1)}`} aria-label={title}>
      <Spine />
      <div className="source-told">
        <Link to={`/elsewhere/${source.id}`}>{title}</Link> <span className="quiet">{source.host}</span>
        <State source={source} />
      </div>
      {source.mayKeep && <ReadNow source={source} title={title} />}
      {source.mayKeep && (
        <Link className="btn btn-outline-primary btn-sm" to={`/elsewhere/${source.id}`}>
          {t('source.sortThis', { title })}
        </Link>
      )}
      <span className="visually-hidden">{say(source).isWell ? '' : t('source.unwell')}</span>
    </li>
  );
};

export const State = ({ source }: { source: Source }) => {
  const { lines, isWell } = useStateText()(source);
  return (
    <ul className={isWell ? 'source-state' : 'source-state is-unwell'}>
      {lines.map((line) => (
        <li key={line}>{line}</li>
      ))}
    </ul>
  );
};

/** Reads it now; asks whether nothing is right where there was something. */
export const ReadNow = ({ source, title }: { source: Source; title: string }) => {
  const { t } = useTexts();
  const actions = useActions();
  const [isBusy, setBusy] = useState(false);
  const [problem, setProblem] = useState<ApiProblem | null>(null);
  const read = (isEmptyRight: boolean) => {
    setBusy(true);
    setProblem(null);
    void actions
      .readSource(source.id, isEmptyRight)
      .catch((error: unknown) => setProblem(asProblem(error)))
      .finally(() => setBusy(false));
  };
  return (
    <>
      {source.problem === 'source_empty' && (
        <Button size="sm" variant="outline-danger" disabled={isBusy} onClick={() => read(true)}>
          {t('source.emptyIsRight')}
        </Button>
      )}
      <Button
        size="sm"
        variant="outline-primary"
        disabled={isBusy}
        aria-label={t('source.readThis', { title })}
        onClick={() => read(false)}
      >
        {t(isBusy ? 'source.reading' : 'source.readNow')}
      </Button>
      {problem && <Told problem={problem} />}
    </>
  );
};
