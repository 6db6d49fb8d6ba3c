import { useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import Button from 'react-bootstrap/Button';
import Form from 'react-bootstrap/Form';
import { useNavigate, useParams } from 'react-router';
import { api, asProblem, stepOf, type Calendar, type Publication, type Session } from '../shared/api/client';
import { isStale, overLatest } from '../shared/merged';
import { FieldProblem } from '../shared/parts/FieldProblem';
import { problemText, useTexts } from '../shared/i18n';
import { useCalendars } from '../shared/data/useCalendars';
import { ofOwn } from '../shared/data/bringIn';
import { useUndo } from '../shared/data/undo';
import { useInTurn } from '../shared/useInTurn';
import { CalendarChoice } from './CalendarChoice';
import { ForWhom, LinkTools, Narrowing, TitlePattern, type For } from './Choices';
import { PLACED } from './codes';
import { draftOf, type Draft } from './draft';
import { useDraft } from './useDraft';
import { LookFields } from './LookFields';
import { OthersPublication } from './OthersPublication';
import { Outlets } from './Outlets';
import { Preview } from './Preview';
import { proofQuery } from './ProofPanel';
import './publish.scss';

export const PublishPage = ({ school }: { school: Session['school'] }) => {
  const { t } = useTexts();
  const { id } = useParams();
  const navigate = useNavigate();
  const publications = useQuery({ queryKey: ['publications'], queryFn: api.publications });
  const calendars = useCalendars(school.today);
  // What was undone is shown by a form that begins with it.
  const { turn } = useUndo();
  // One that was begun here and has got an identity meanwhile is still the same on the screen.
  const [begun, setBegun] = useState<{ id: string | null; turn: number }>({ id: null, turn: 0 });
  if (!publications.data || !calendars.data) {
    const failed = publications.error ?? calendars.error;
    return <p className="loading">{failed ? problemText(t, asProblem(failed)) : t('loading')}</p>;
  }
  const isNew = id === 'new' || publications.data.length === 0;
  const chosen = isNew ? null : (publications.data.find((p) => p.id === id) ?? publications.data[0] ?? null);
  const isBegun = isNew || (chosen !== null && chosen.id === begun.id);
  return (
    <Studio
      key={`${isBegun ? `new ${begun.turn}` : chosen?.id} ${turn}`}
      publication={chosen}
      publications={publications.data}
      calendars={calendars.data}
      onGo={(to) => {
        if (to === 'new') setBegun({ id: null, turn: begun.turn + 1 });
        void navigate(`/publish/${to}`);
      }}
      onBegun={(made) => {
        setBegun({ id: made, turn: begun.turn });
        void navigate(`/publish/${made}`, { replace: true });
      }}
    />
  );
};

interface StudioProps {
  publication: Publication | null;
  publications: Publication[];
  calendars: Calendar[];
  onGo: (id: string) => void;
  onBegun: (id: string) => void;
}

/** What says something that follows from a publication. */
const MADE_FROM_IT = ['publications', 'proof', 'checks', 'opening-requests', 'who-sees'];

const keyOf = (title: string): string =>
  title
    .normalize('NFD')
    .replace(/[\u0300-\u036f]/g, '')
    .toLowerCase()
    .replace(/[^a-z0-9]+/g, '-')
    .replace(/^-+|-+$/g, '')
    .slice(0, 40);

const Studio = ({ publication, publications, calendars, onGo, onBegun }: StudioProps) => {
  const { t, language } = useTexts();
  const queries = useQueryClient();
  const { done } = useUndo();
  const { draft, setDraft, kept, learn, onto, during } = useDraft(publication, language);
  const [typedKey, setTypedKey] = useState<string | null>(null);
  const key = typedKey ?? keyOf(draft.title ?? '');
  const { run: inTurn, problem } = useInTurn();
  const [placed, setPlaced] = useState(PLACED);
  const troubles = publication?.troubles ?? [];
  const [isEmptyAsked, setEmptyAsked] = useState(false);
  const audience: For = draft.audience === 'linkHolders' || draft.audience === 'members' ? draft.audience : 'everyone';

  // One choice after the other, each made from what the one before left: a quick hand is not told of itself.
  const run = (work: (now: Publication | null) => Promise<Publication>, sent?: Draft) =>
    during(
      inTurn(async () => {
        const before = kept.current;
        const saved = await ofOwn(work(before)).catch((error: unknown) => {
          // Whoever is told that it was changed meanwhile sees how, and goes on from there.
          if (isStale<Publication>(error)) {
            learn(error.current);
            void queries.invalidateQueries({ queryKey: ['publications'] });
          }
          throw error;
        });
        if (!before || saved.id === before.id) learn(saved, sent);
        // A choice shows itself where it was made; it can be taken back like anything else.
        done({ text: '', step: stepOf(saved) });
        queries.setQueryData<Publication[]>(['publications'], (all) =>
          all?.some((p) => p.id === saved.id)
            ? all.map((p) => (p.id === saved.id ? saved : p))
            : [...(all ?? []), saved],
        );
        // Nobody waits for it who goes on choosing.
        for (const key of MADE_FROM_IT) void queries.invalidateQueries({ queryKey: [key] });
        if (!before) onBegun(saved.id);
      }),
    );
  const save = (next: Draft) => {
    // A new one is kept from when it has a name and a calendar; it goes out by its button.
    if (!kept.current && (!next.title?.trim() || next.calendarIds.length === 0)) return;
    // What others choose meanwhile stays beside it.
    const keep = (known: Publication) =>
      overLatest(known, (now) =>
        api.changePublication(now.id, { ...onto(next, now), key: null, version: now.version, isOut: false }),
      );
    void run((now) => (now ? keep(now) : api.addPublication({ ...next, key: '', version: null, isOut: false })), next);
  };
  const set = (change: Partial<Draft>, now = true) => {
    const next = { ...draft, ...change };
    setDraft(next);
    setEmptyAsked(false);
    if (now) save(next);
  };
  const settle = () => {
    if (!publication || draft.title !== publication.title || draft.introduction !== publication.introduction)
      save(draft);
  };
  const isOut = publication?.isPublished ?? false;
  // What is there already is looked at when its turn has come: it may just be being made.
  const publish = (isEmptyMeant = false) =>
    void run(async (now) => {
      const isNamed = audience === 'everyone';
      const name = isNamed ? key || keyOf(draft.title ?? '') : '';
      // Told by the server what is missing.
      if (!now) return api.addPublication({ ...draft, key: name, version: null, isOut: true });
      if (now.isPublished) return api.publishChanges(now.id, now.version);
      // What would be empty is asked for first: an empty page is seldom meant.
      if (!isEmptyMeant && (await queries.query(proofQuery(now, true))).events === 0) {
        setEmptyAsked(true);
        return now;
      }
      // Whoever has the link only, and members: its name is nobody's to guess.
      const named = isNamed ? await api.nameLink(now.id, name, now.version) : now;
      learn(named);
      return api.publishChanges(named.id, named.version);
    });
  const ofKept = (work: (now: Publication) => Promise<Publication>) => run((now) => work(now as Publication));
  const discard = () =>
    void ofKept(async (now) => {
      const left = await api.discardChanges(now.id, now.version);
      // What was typed and refused goes as well.
      setDraft(draftOf(left, language));
      return left;
    });
  const wrong = (field: string) => <FieldProblem text={problem?.field === field && problemText(t, problem)} />;
  const isElsewhere =
    problem &&
    (!problem.field ||
      (problem.field !== 'title' &&
        problem.field !== 'key' &&
        problem.field !== 'calendarIds' &&
        !problem.field.startsWith('choices') &&
        !problem.field.startsWith('look')));

  return (
    <main className="publish">
      <h1 className="visually-hidden">{publication?.title ?? t('publish.new')}</h1>
      <Preview
        publication={publication}
        placed={placed}
        mayLookAs={draft.calendarIds.every((id) => calendars.find((c) => c.id === id)?.role === 'keeper')}
      />
      <section className="questions" aria-label={publication?.title ?? t('publish.new')}>
        <div className="questions-head">
          <Form.Select
            aria-label={t('publish.choose')}
            value={publication?.id ?? 'new'}
            onChange={(e) => onGo(e.target.value)}
          >
            {publications.map((p) => (
              <option key={p.id} value={p.id}>
                {p.title}
                {p.mayChange ? '' : ` (${t('publish.ofOthers')})`}
                {p.takenDown
                  ? ` (${t('publish.down')})`
                  : !p.isPublished
                    ? ` (${t('publish.notYet')})`
                    : p.audience === 'everyone'
                      ? ''
                      : ` (${t(`publish.audience.${p.audience as 'linkHolders' | 'members'}`)})`}
              </option>
            ))}
            <option value="new">{t('publish.new')}</option>
          </Form.Select>
        </div>
        {/* Wherever somebody has come to among the questions. */}
        {isElsewhere && (
          <p className="notice notice-danger in-sight" role="alert">
            {isStale(problem) ? t('meanwhile') : problemText(t, problem)}
          </p>
        )}
        {publication && !publication.mayChange ? (
          <OthersPublication publication={publication} calendars={calendars} onRun={ofKept} />
        ) : (
          <>
            {publication && troubles.length > 0 && (
              <div className="notice">
                {troubles.map((trouble) => (
                  <p key={trouble.calendarId}>{t(`publish.trouble.${trouble.kind}`, { title: trouble.calendar })}</p>
                ))}
              </div>
            )}
            {isOut && publication?.hasChanges && (
              <div className="waiting" role="status">
                <p>{t('publish.waiting')}</p>
                <Button onClick={() => publish()}>{t('publish.publishChanges')}</Button>
                <Button variant="outline-danger" onClick={discard}>
                  {t('publish.discard')}
                </Button>
              </div>
            )}
            <Form.Control
              className="sheet-title"
              aria-label={t('publish.title')}
              placeholder={t('publish.titlePlaceholder')}
              value={draft.title ?? ''}
              onBlur={settle}
              onChange={(e) => set({ title: e.target.value }, false)}
            />
            {wrong('title')}
            <Form.Control
              as="textarea"
              rows={2}
              className="quiet-field"
              aria-label={t('publish.introduction')}
              placeholder={t('publish.introductionPlaceholder')}
              value={draft.introduction ?? ''}
              onBlur={settle}
              onChange={(e) => set({ introduction: e.target.value }, false)}
            />
            <Question title={t('publish.what')} answer={t('publish.calendars', { count: draft.calendarIds.length })}>
              <CalendarChoice
                publicationId={publication?.id ?? null}
                calendars={calendars}
                chosen={draft.calendarIds}
                audience={audience}
                choices={draft.choices}
                onChange={(calendarIds) => set({ calendarIds })}
                onChoices={(choices) => set({ choices })}
              />
              {wrong('calendarIds')}
              <Narrowing choices={draft.choices} problem={problem} onChoices={(choices) => set({ choices })} />
            </Question>
            <Question title={t('publish.who')} answer={t(`publish.audience.${audience}`)}>
              <ForWhom
                audience={audience}
                choices={draft.choices}
                problem={problem}
                onAudience={(next) => set({ audience: next })}
                onChoices={(choices) => set({ choices })}
              />
            </Question>
            <Question title={t('publish.look')} answer={t(`publish.views.${draft.firstView}`)}>
              <LookFields
                look={draft.look}
                firstView={draft.firstView}
                language={draft.language ?? 'en'}
                publication={publication}
                problem={problem}
                onLook={(look) => set({ look })}
                onFirstView={(firstView) => set({ firstView })}
                onLanguage={(next) => set({ language: next })}
              />
            </Question>
            <Question title={t('publish.where')} answer={isOut ? '' : t('publish.whereNew')}>
              {publication && isOut ? (
                <>
                  <Outlets
                    publication={publication}
                    placed={placed}
                    look={draft.look}
                    choices={draft.choices}
                    problem={problem}
                    onPlaced={setPlaced}
                    onLook={(look) => set({ look })}
                    onChoices={(choices) => set({ choices })}
                  />
                  <TitlePattern
                    choices={draft.choices}
                    calendars={calendars.filter((c) => draft.calendarIds.includes(c.id))}
                    problem={problem}
                    onChoices={(choices) => set({ choices })}
                  />
                  <LinkTools publication={publication} onRun={ofKept} onGo={onGo} />
                </>
              ) : audience !== 'everyone' ? (
                <p className="quiet">{t(audience === 'members' ? 'publish.keyMembers' : 'publish.keyRandom')}</p>
              ) : (
                <>
                  <label className="key-line">
                    <span>/p/</span>
                    <Form.Control
                      aria-label={t('publish.key')}
                      value={key}
                      isInvalid={problem?.field === 'key'}
                      onChange={(e) => setTypedKey(e.target.value)}
                    />
                  </label>
                  {wrong('key')}
                </>
              )}
            </Question>
            <div className="sheet-foot">
              {!isOut && !isEmptyAsked && <Button onClick={() => publish()}>{t('publish.create')}</Button>}
              {isEmptyAsked && !isOut && (
                <div className="notice" role="alert">
                  <p>{t('publish.emptyAsk')}</p>
                  <Button onClick={() => publish(true)}>{t('publish.emptyYes')}</Button>{' '}
                  <Button variant="outline-primary" onClick={() => setEmptyAsked(false)}>
                    {t('cancel')}
                  </Button>
                </div>
              )}
              {publication && isOut && !publication.takenDown && (
                <Button variant="outline-danger" onClick={() => void ofKept(({ id }) => api.takeDown(id))}>
                  {t('publish.takeDown')}
                </Button>
              )}
              {publication?.takenDown && (
                <>
                  <p className="notice">{t('publish.downNote')}</p>
                  <Button onClick={() => void ofKept(({ id }) => api.putUp(id))}>{t('publish.putUp')}</Button>
                </>
              )}
            </div>
          </>
        )}
      </section>
    </main>
  );
};

const Question = ({ title, answer, children }: { title: string; answer: string; children?: React.ReactNode }) => (
  <section className="question" aria-label={title}>
    <div className="question-head">
      <h3>{title}</h3>
      <span className="quiet">{answer}</span>
    </div>
    {children}
  </section>
);
