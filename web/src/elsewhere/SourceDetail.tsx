import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { useState, type SubmitEvent } from 'react';
import Button from 'react-bootstrap/Button';
import Form from 'react-bootstrap/Form';
import { Link, useNavigate } from 'react-router';
import {
  api,
  asProblem,
  type ApiProblem,
  type Calendar,
  type SortBy,
  type SortingRule,
  type Source,
} from '../shared/api/client';
import { useActions } from '../shared/data/actions';
import { mayEdit } from '../shared/data/rights';
import { formatMoment, shortDay } from '../shared/dates';
import { problemText, useTexts } from '../shared/i18n';
import { ApiProblem as Problem } from '../shared/api/client';
import { useBeside } from '../shared/merged';
import { Told } from '../shared/parts/Told';
import { useDebounced } from '../shared/useDebounced';
import { ReadNow, State } from './SourceRow';

interface Props {
  source: Source;
  calendars: Calendar[];
}

const BY: SortBy[] = ['category', 'beginning', 'ending', 'brackets', 'place', 'text', 'property'];

/** One source: how it is, how it is sorted, what its readings changed, and how it ends. */
export const SourceDetail = ({ source, calendars }: Props) => {
  const { t } = useTexts();
  const lane = calendars.find((c) => c.id === source.calendarId);
  const title = lane?.title ?? source.host;
  return (
    <main className="elsewhere">
      <div className="page-head">
        <h1>{title}</h1>
        <p className="quiet">
          <Link to="/elsewhere">{t('elsewhere.title')}</Link> · {source.address ?? source.host}
        </p>
      </div>
      <div className="elsewhere-body">
        <section aria-label={t('source.state')} className="source-head">
          <State source={source} />
          {source.movedTo && <p className="quiet">{t('source.movedTo', { address: source.movedTo })}</p>}
          {source.mayKeep && <ReadNow source={source} title={title} />}
        </section>
        {source.mayKeep && <Sorting source={source} calendars={calendars} lane={title} />}
        {source.mayKeep && <Habits source={source} />}
        {source.mayKeep && <Log source={source} />}
        {source.mayKeep && <Stop source={source} title={title} />}
      </div>
    </main>
  );
};

const sameRules = (a: SortingRule[], b: SortingRule[]) => JSON.stringify(a) === JSON.stringify(b);

/** Which of its events stand in which of our calendars: proposed, tried on all of them, and kept. */
const Sorting = ({ source, calendars, lane }: Props & { lane: string }) => {
  const { t, language } = useTexts();
  const actions = useActions();
  const [rules, setRules] = useState<SortingRule[]>(source.sorting ?? []);
  // What it was sorted by when this was opened, and the version that was in.
  const [seen, setSeen] = useState({ rules: source.sorting ?? [], version: source.version });
  const [problem, setProblem] = useState<ApiProblem | null>(null);
  const [isBusy, setBusy] = useState(false);
  const tried = useDebounced(rules, 300);
  const whole = tried.filter((r) => (r.value ?? '').trim() !== '' && r.calendarId !== '');
  const trial = useQuery({
    queryKey: ['sorting', source.id, source.bodyAt, whole],
    queryFn: () => api.trySorting(source.id, whole, source.version),
    placeholderData: keepPreviousData,
  });
  // Other things of the source may change under it; whoever sorted meanwhile is asked about.
  const version = sameRules(seen.rules, source.sorting ?? []) ? source.version : seen.version;
  const isDirty = !sameRules(rules, source.sorting ?? []);
  const own = calendars.filter(mayEdit);
  const name = (id: string) => calendars.find((c) => c.id === id)?.title ?? lane;
  const change = (at: number, next: Partial<SortingRule>) =>
    setRules(rules.map((r, i) => (i === at ? { ...r, ...next } : r)));
  const has = (by: SortBy, value: string) =>
    rules.some((r) => r.by === by && (r.value ?? '').toLowerCase() === value.toLowerCase());
  const proposed = (trial.data?.groups ?? []).filter((g) => !has(g.by, g.value));
  const save = () => {
    setBusy(true);
    setProblem(null);
    actions
      .sortSource(source.id, rules, version)
      .then((kept) => {
        setRules(kept.sorting ?? []);
        setSeen({ rules: kept.sorting ?? [], version: kept.version });
      })
      .catch((error: unknown) => {
        const told = asProblem(error);
        setProblem(told);
        // Told once; sorted again it is sorted over what there is now.
        if (told.code === 'stale_version') setSeen({ rules: source.sorting ?? [], version: source.version });
      })
      .finally(() => setBusy(false));
  };
  return (
    <section aria-labelledby="sorting-head" className="sorting">
      <h2 id="sorting-head">{t('sorting.title')}</h2>
      <p className="quiet">{t('sorting.hint', { lane })}</p>
      {proposed.length > 0 && (
        <ul className="sorting-proposed" aria-label={t('sorting.proposed')}>
          {proposed.slice(0, 12).map((group) => (
            <li key={`${group.by} ${group.property} ${group.value}`}>
              <span>
                {t(`sorting.says.${group.by}`, { count: group.count, value: group.value, property: group.property })}
              </span>
              <Button
                size="sm"
                variant="outline-primary"
                onClick={() =>
                  setRules([
                    ...rules,
                    {
                      by: group.by,
                      value: group.value,
                      property: group.property,
                      calendarId: group.calendarId ?? '',
                      dropsCode: group.by === 'brackets' || group.by === 'beginning' || group.by === 'ending',
                    },
                  ])
                }
              >
                {group.calendarId
                  ? t('sorting.putInto', { value: group.value, calendar: name(group.calendarId) })
                  : t('sorting.makeRule', { value: group.value })}
              </Button>
            </li>
          ))}
        </ul>
      )}
      {rules.map((rule, i) => (
        <fieldset key={i} className="sorting-rule">
          <legend className="visually-hidden">{t('sorting.rule', { number: i + 1 })}</legend>
          <Form.Select
            size="sm"
            aria-label={t('sorting.by')}
            value={rule.by}
            onChange={(e) => change(i, { by: e.target.value as SortBy })}
          >
            {BY.map((by) => (
              <option key={by} value={by}>
                {t(`sorting.known.${by}`)}
              </option>
            ))}
          </Form.Select>
          {rule.by === 'property' && (
            <Form.Control
              size="sm"
              aria-label={t('sorting.property')}
              value={rule.property ?? ''}
              onChange={(e) => change(i, { property: e.target.value })}
            />
          )}
          <Form.Control
            size="sm"
            aria-label={t('sorting.value')}
            value={rule.value ?? ''}
            isInvalid={problem?.field === `rules.${i}.value`}
            onChange={(e) => change(i, { value: e.target.value })}
          />
          <span aria-hidden="true">→</span>
          <Form.Select
            size="sm"
            aria-label={t('sorting.into')}
            value={rule.calendarId}
            isInvalid={rule.calendarId === ''}
            onChange={(e) => change(i, { calendarId: e.target.value })}
          >
            <option value="">{t('bring.chooseCalendar')}</option>
            {own.map((c) => (
              <option key={c.id} value={c.id}>
                {c.title}
              </option>
            ))}
          </Form.Select>
          <Form.Check
            id={`drops-${i}`}
            label={t('sorting.dropsCode')}
            checked={rule.dropsCode}
            onChange={(e) => change(i, { dropsCode: e.target.checked })}
          />
          <span className="quiet">
            {sameRules(whole, rules) && trial.data ? t('sorting.caught', { count: trial.data.caught[i] ?? 0 }) : ''}
          </span>
          <Button
            size="sm"
            variant="link"
            aria-label={t('sorting.remove', { number: i + 1 })}
            onClick={() => setRules(rules.filter((_, at) => at !== i))}
          >
            ×
          </Button>
        </fieldset>
      ))}
      <div className="sorting-foot">
        <Button
          size="sm"
          variant="outline-primary"
          onClick={() =>
            setRules([...rules, { by: 'text', value: '', property: '', calendarId: '', dropsCode: false }])
          }
        >
          {t('sorting.add')}
        </Button>
        <Button disabled={!isDirty || isBusy || rules.some((r) => r.calendarId === '')} onClick={save}>
          {t('sorting.save')}
        </Button>
      </div>
      {problem && <Told problem={problem} />}
      {trial.error && <Told problem={asProblem(trial.error)} />}
      {trial.data && (
        <>
          <p role="status">
            {t('sorting.result', { total: trial.data.total, rest: trial.data.rest, lane })}
            {trial.data.total > 3 && trial.data.caught.some((c) => c === trial.data.total) && (
              <> {t('sorting.everything')}</>
            )}
          </p>
          <ol className="sorting-tried" aria-label={t('sorting.tried')}>
            {trial.data.events.map((e, i) => (
              <li key={i} className={e.rule === null ? 'is-rest' : ''}>
                <span className="quiet">{shortDay(e.date, language)}</span>
                <span>
                  {e.as}
                  {e.as !== e.title && <span className="quiet"> {t('sorting.was', { title: e.title })}</span>}
                </span>
                <span>{name(e.calendarId)}</span>
              </li>
            ))}
          </ol>
        </>
      )}
    </section>
  );
};

/** How often it is read, and which days are wanted. */
const Habits = ({ source }: { source: Source }) => {
  const { t } = useTexts();
  const actions = useActions();
  const kept = { every: source.everyMinutes, past: source.pastDays, ahead: source.aheadDays };
  const { draft: typed, isDirty, type } = useBeside(kept);
  const [problem, setProblem] = useState<ApiProblem | null>(null);
  return (
    <section aria-labelledby="habits-head">
      <h2 id="habits-head">{t('source.habits')}</h2>
      <Form
        className="source-habits"
        noValidate
        onSubmit={(e: SubmitEvent) => {
          e.preventDefault();
          setProblem(null);
          actions
            .changeSource(source.id, {
              everyMinutes: typed.every,
              pastDays: typed.past,
              aheadDays: typed.ahead,
              version: source.version,
            })
            .catch((error: unknown) => setProblem(asProblem(error)));
        }}
      >
        <Form.Group controlId="source-every">
          <Form.Label>{t('source.every')}</Form.Label>
          <Form.Select
            value={typed.every ?? ''}
            onChange={(e) => type({ ...typed, every: e.target.value === '' ? null : Number(e.target.value) })}
          >
            <option value="">{t('source.everyAsWished', { count: source.wishMinutes ?? 60 })}</option>
            {[15, 30, 60, 180, 720, 1440].map((minutes) => (
              <option key={minutes} value={minutes}>
                {t('source.everyMinutes', { count: minutes })}
              </option>
            ))}
          </Form.Select>
        </Form.Group>
        <Form.Group controlId="source-past">
          <Form.Label>{t('source.past')}</Form.Label>
          <Form.Control
            type="number"
            min={0}
            value={typed.past}
            onChange={(e) => type({ ...typed, past: Number(e.target.value) })}
          />
        </Form.Group>
        <Form.Group controlId="source-ahead">
          <Form.Label>{t('source.ahead')}</Form.Label>
          <Form.Control
            type="number"
            min={1}
            value={typed.ahead}
            onChange={(e) => type({ ...typed, ahead: Number(e.target.value) })}
          />
        </Form.Group>
        <Button type="submit" disabled={!isDirty}>
          {t('source.saveHabits')}
        </Button>
      </Form>
      {problem && <Told problem={problem} />}
    </section>
  );
};

/** What each reading changed, or why it did not work. */
const Log = ({ source }: { source: Source }) => {
  const { t, language } = useTexts();
  const readings = useQuery({
    queryKey: ['source-readings', source.id, source.readAt, source.problem],
    queryFn: () => api.sourceReadings(source.id),
    placeholderData: keepPreviousData,
  });
  if (!readings.data || readings.data.length === 0) return null;
  return (
    <section aria-labelledby="log-head">
      <h2 id="log-head">{t('source.log')}</h2>
      <ul className="source-log">
        {readings.data.map((r, i) => (
          <li key={i}>
            <span className="quiet">{formatMoment(r.at, language)}</span>{' '}
            {r.problem
              ? problemText(t, new Problem(0, r.problem, r.problem))
              : r.told.length === 0
                ? t('source.wellAgain')
                : r.told
                    .map((e) =>
                      e.from
                        ? t('source.moved', {
                            title: e.title,
                            from: shortDay(e.from, language),
                            to: shortDay(e.date, language),
                          })
                        : t(`source.told.${e.kind}`, { title: e.title, day: shortDay(e.date, language) }),
                    )
                    .join('; ')}
          </li>
        ))}
      </ul>
    </section>
  );
};

/** Ends it: what it gave stays as our own, or goes with it. */
const Stop = ({ source, title }: { source: Source; title: string }) => {
  const { t } = useTexts();
  const actions = useActions();
  const go = useNavigate();
  const [isAsking, setAsking] = useState(false);
  const [problem, setProblem] = useState<ApiProblem | null>(null);
  const stop = (keeps: boolean) => {
    setProblem(null);
    actions
      .stopSource(source.id, keeps)
      .then(() => go('/elsewhere'))
      .catch((error: unknown) => setProblem(asProblem(error)));
  };
  return (
    <section aria-labelledby="stop-head">
      <h2 id="stop-head">{t('source.stopTitle')}</h2>
      {isAsking ? (
        <div className="notice" role="group" aria-label={t('source.stopTitle')}>
          <p>{t('source.stopAsk', { title })}</p>
          <Button size="sm" onClick={() => stop(true)}>
            {t('source.stopKeep')}
          </Button>{' '}
          <Button size="sm" variant="outline-danger" onClick={() => stop(false)}>
            {t('source.stopLetGo')}
          </Button>{' '}
          <Button size="sm" variant="link" onClick={() => setAsking(false)}>
            {t('source.stopNot')}
          </Button>
        </div>
      ) : (
        <Button variant="outline-danger" size="sm" onClick={() => setAsking(true)}>
          {t('source.stop')}
        </Button>
      )}
      {problem && <Told problem={problem} />}
    </section>
  );
};
