import { useQuery, useQueryClient } from '@tanstack/react-query';
import { useRef, useState } from 'react';
import { Button, ButtonGroup, Form } from 'react-bootstrap';
import { useNavigate, useParams } from 'react-router';
import {
  api,
  asProblem,
  type ApiProblem,
  type Calendar,
  type Choices,
  type Proof,
  type Publication,
  type PublicationInput,
} from '../shared/api/client';
import { CopyField } from '../shared/CopyField';
import { addDays } from '../shared/dates';
import { FieldProblem } from '../shared/FieldProblem';
import { LANGUAGES, problemText, useTexts, type Language } from '../shared/i18n';
import { markClass, Spine } from '../shared/Spine';
import { useActions } from '../workspace/actions';
import { usePeople } from '../people/PeoplePage';
import { opened } from '../shared/reach';
import { OpeningAsk } from '../workspace/OpeningAsk';
import { ForWhom, LinkTools, Narrowing, NO_CHOICES, OneCalendar, TitlePattern } from './Choices';
import './publish.scss';

const WIDTHS = ['column', 'side', 'phone'] as const;
type Width = (typeof WIDTHS)[number];

/** Any window will do to learn which calendars there are. */
const useCalendars = () => {
  const today = new Date().toISOString().slice(0, 10);
  return useQuery({
    queryKey: ['board', today, addDays(today, 1)],
    queryFn: () => api.board(today, addDays(today, 1)),
    select: (b) => b.calendars,
  });
};

export const Publish = () => {
  const { t } = useTexts();
  const { id } = useParams();
  const navigate = useNavigate();
  const publications = useQuery({ queryKey: ['publications'], queryFn: api.publications });
  const calendars = useCalendars();
  if (!publications.data || !calendars.data) {
    const failed = publications.error ?? calendars.error;
    return <p className="loading">{failed ? problemText(t, asProblem(failed)) : t('loading')}</p>;
  }
  const isNew = id === 'new' || publications.data.length === 0;
  const chosen = isNew ? null : (publications.data.find((p) => p.id === id) ?? publications.data[0] ?? null);
  return (
    <Studio
      key={chosen?.id ?? 'new'}
      publication={chosen}
      publications={publications.data}
      calendars={calendars.data}
      onGo={(to) => void navigate(`/publish/${to}`)}
    />
  );
};

interface StudioProps {
  publication: Publication | null;
  publications: Publication[];
  calendars: Calendar[];
  onGo: (id: string) => void;
}

type Draft = Omit<PublicationInput, 'version' | 'calendarIds' | 'choices'> & {
  calendarIds: string[];
  choices: Choices;
};

const keyOf = (title: string): string =>
  title
    .normalize('NFD')
    .replace(/[\u0300-\u036f]/g, '')
    .toLowerCase()
    .replace(/[^a-z0-9]+/g, '-')
    .replace(/^-+|-+$/g, '')
    .slice(0, 40);

const Studio = ({ publication, publications, calendars, onGo }: StudioProps) => {
  const { t, language } = useTexts();
  const queries = useQueryClient();
  const [draft, setDraft] = useState<Draft>(() => ({
    key: publication?.key ?? '',
    title: publication?.title ?? '',
    introduction: publication?.introduction ?? '',
    calendarIds: publication?.calendarIds ?? [],
    firstView: publication?.firstView ?? 'month',
    language: publication?.language ?? language,
    audience: publication?.audience ?? 'everyone',
    choices: publication?.choices ?? NO_CHOICES,
  }));
  const [keyTyped, setKeyTyped] = useState(false);
  const [problem, setProblem] = useState<ApiProblem | null>(null);
  const [width, setWidth] = useState<Width>('column');
  const proof = useQuery({
    queryKey: ['proof', publication?.id, publication?.version],
    queryFn: () => api.proof(publication?.id ?? ''),
    enabled: publication !== null,
  });

  // One choice after the other, each made from what the one before left: a quick hand is not told of itself.
  const version = useRef(publication?.version ?? 0);
  const queue = useRef(Promise.resolve());
  const run = async (work: () => Promise<Publication>) => {
    setProblem(null);
    try {
      const saved = await work();
      if (saved.id === publication?.id) version.current = saved.version;
      await Promise.all([
        queries.invalidateQueries({ queryKey: ['publications'] }),
        queries.invalidateQueries({ queryKey: ['proof'] }),
      ]);
      if (!publication) onGo(saved.id);
    } catch (error) {
      setProblem(asProblem(error));
    }
  };
  /** A saved publication follows each choice at once; a new one waits for its button. */
  const set = (change: Partial<Draft>, now = true) => {
    const next = { ...draft, ...change };
    setDraft(next);
    if (publication && now)
      queue.current = queue.current.then(() =>
        run(() => api.changePublication(publication.id, { ...next, version: version.current })),
      );
  };
  const settle = () => {
    if (publication && (draft.title !== publication.title || draft.introduction !== publication.introduction)) set({});
  };
  // Whoever has the link only: its name is nobody's to guess.
  const create = () =>
    void run(() =>
      api.addPublication({
        ...draft,
        key: draft.audience === 'linkHolders' ? '' : draft.key || keyOf(draft.title ?? ''),
        version: null,
      }),
    );
  const wrong = (field: string) => <FieldProblem text={problem?.field === field && problemText(t, problem)} />;

  return (
    <main className="publish">
      <section className="preview" aria-label={t('publish.preview')}>
        <div className="preview-head">
          <h2>{t('publish.asVisitor')}</h2>
          <ButtonGroup size="sm" aria-label={t('publish.width')}>
            {WIDTHS.map((w) => (
              <Button
                key={w}
                variant="outline-primary"
                active={width === w}
                aria-pressed={width === w}
                onClick={() => setWidth(w)}
              >
                {t(`publish.widths.${w}`)}
              </Button>
            ))}
          </ButtonGroup>
        </div>
        <div className={`preview-paper width-${width}`}>
          {publication && !publication.takenDown ? (
            <>
              <div className="preview-text" aria-hidden="true">
                <span />
                <span />
              </div>
              <iframe
                key={`${publication.changedAt} ${proof.dataUpdatedAt} ${width}`}
                title={t('publish.frame')}
                src={`/p/${publication.key}/embed${width === 'side' ? '?view=upcoming&count=6' : ''}`}
              />
            </>
          ) : (
            <p className="preview-none">{publication ? t('publish.isDown') : t('publish.firstStep')}</p>
          )}
        </div>
        {publication && !publication.takenDown && proof.data && <ProofStrip proof={proof.data} />}
        {publication && <LookAs publication={publication} />}
      </section>
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
                {p.takenDown ? ` (${t('publish.down')})` : ''}
              </option>
            ))}
            <option value="new">{t('publish.new')}</option>
          </Form.Select>
        </div>
        <Form.Control
          className="sheet-title"
          aria-label={t('publish.title')}
          placeholder={t('publish.titlePlaceholder')}
          value={draft.title ?? ''}
          onBlur={settle}
          onChange={(e) =>
            set({ title: e.target.value, ...(!publication && !keyTyped ? { key: keyOf(e.target.value) } : {}) }, false)
          }
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
        {problem && !problem.field && (
          <p className="notice notice-danger" role="alert">
            {problemText(t, problem)}
          </p>
        )}
        <Question title={t('publish.what')} answer={t('publish.calendars', { count: draft.calendarIds.length })}>
          <CalendarChoice
            calendars={calendars}
            chosen={draft.calendarIds}
            audience={draft.audience === 'linkHolders' ? 'linkHolders' : 'everyone'}
            choices={draft.choices}
            onChange={(calendarIds) => set({ calendarIds })}
            onChoices={(choices) => set({ choices })}
          />
          {wrong('calendarIds')}
          <Narrowing choices={draft.choices} problem={problem} onChoices={(choices) => set({ choices })} />
        </Question>
        <Question
          title={t('publish.who')}
          answer={t(`publish.audience.${draft.audience === 'linkHolders' ? 'linkHolders' : 'everyone'}`)}
        >
          <ForWhom
            audience={draft.audience === 'linkHolders' ? 'linkHolders' : 'everyone'}
            choices={draft.choices}
            problem={problem}
            onAudience={(audience) => set({ audience })}
            onChoices={(choices) => set({ choices })}
          />
        </Question>
        <Question title={t('publish.look')} answer={t(`publish.first.${draft.firstView}`)}>
          <div className="choice-line">
            <ButtonGroup size="sm" aria-label={t('publish.firstView')}>
              {(['month', 'list'] as const).map((view) => (
                <Button
                  key={view}
                  variant="outline-primary"
                  active={draft.firstView === view}
                  aria-pressed={draft.firstView === view}
                  onClick={() => set({ firstView: view })}
                >
                  {t(`publish.views.${view}`)}
                </Button>
              ))}
            </ButtonGroup>
            <Form.Select
              size="sm"
              aria-label={t('publish.language')}
              value={draft.language ?? 'en'}
              onChange={(e) => set({ language: e.target.value })}
            >
              {(Object.keys(LANGUAGES) as Language[]).map((code) => (
                <option key={code} value={code}>
                  {LANGUAGES[code]}
                </option>
              ))}
            </Form.Select>
          </div>
        </Question>
        <Question title={t('publish.where')} answer={publication ? '' : t('publish.whereNew')}>
          {publication ? (
            <>
              <Outlets publication={publication} />
              <LinkTools publication={publication} onRun={run} onGo={onGo} />
              <TitlePattern
                choices={draft.choices}
                calendars={calendars.filter((c) => draft.calendarIds.includes(c.id))}
                problem={problem}
                onChoices={(choices) => set({ choices })}
              />
            </>
          ) : draft.audience === 'linkHolders' ? (
            <p className="quiet">{t('publish.keyRandom')}</p>
          ) : (
            <>
              <label className="key-line">
                <span>/p/</span>
                <Form.Control
                  aria-label={t('publish.key')}
                  value={draft.key ?? ''}
                  isInvalid={problem?.field === 'key'}
                  onChange={(e) => {
                    setKeyTyped(true);
                    set({ key: e.target.value }, false);
                  }}
                />
              </label>
              {wrong('key')}
            </>
          )}
        </Question>
        <div className="sheet-foot">
          {!publication && <Button onClick={create}>{t('publish.create')}</Button>}
          {publication && !publication.takenDown && (
            <Button variant="outline-danger" onClick={() => void run(() => api.takeDown(publication.id))}>
              {t('publish.takeDown')}
            </Button>
          )}
          {publication?.takenDown && (
            <>
              <p className="notice">{t('publish.downNote')}</p>
              <Button onClick={() => void run(() => api.putUp(publication.id))}>{t('publish.putUp')}</Button>
            </>
          )}
        </div>
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

interface ChoiceProps {
  calendars: Calendar[];
  chosen: string[];
  audience: 'everyone' | 'linkHolders';
  choices: Choices;
  onChange: (ids: string[]) => void;
  onChoices: (choices: Choices) => void;
}

/** Which calendars; one its audience cannot see says so at once, with the change that would open it. */
const CalendarChoice = ({ calendars, chosen, audience, choices, onChange, onChoices }: ChoiceProps) => {
  const { t } = useTexts();
  const actions = useActions();
  const [opening, setOpening] = useState<string | null>(null);
  return (
    <ul className="calendar-choice">
      {calendars.map((calendar) => {
        const isIn = chosen.includes(calendar.id);
        const detail = calendar.reach[audience];
        const held = isIn && detail === 'nothing';
        return (
          <li key={calendar.id} className={held ? 'is-held' : ''}>
            <label className={markClass(calendar.mark)}>
              <Form.Check
                checked={isIn}
                onChange={() =>
                  onChange(
                    isIn
                      ? chosen.filter((c) => c !== calendar.id)
                      : calendars.map((c) => c.id).filter((c) => c === calendar.id || chosen.includes(c)),
                  )
                }
              />
              <Spine />
              <span className="choice-title">{calendar.title}</span>
              <span className="quiet">{isIn ? (held ? t('publish.held') : t(`reach.${detail}`)) : ''}</span>
            </label>
            {isIn && !held && (
              <OneCalendar calendar={calendar} gives={detail} choices={choices} onChoices={onChoices} />
            )}
            {held && (
              <p className="notice">
                {t('publish.heldWhy', { title: calendar.title })}{' '}
                <button type="button" className="btn btn-link p-0" onClick={() => setOpening(calendar.id)}>
                  {t('publish.openIt')}
                </button>{' '}
                {t('publish.orLeave')}
              </p>
            )}
            {held && opening === calendar.id && (
              <OpeningAsk
                calendar={calendar}
                to={opened(calendar.reach, audience, 'everything')}
                onOpen={() =>
                  void actions
                    .setReach(calendar, opened(calendar.reach, audience, 'everything'))
                    .then(() => setOpening(null))
                }
                onLeave={() => setOpening(null)}
              />
            )}
          </li>
        );
      })}
    </ul>
  );
};

const Outlets = ({ publication }: { publication: Publication }) => {
  const { t } = useTexts();
  const { links } = publication;
  const title = publication.title.replaceAll('&', '&amp;').replaceAll('"', '&quot;').replaceAll('<', '&lt;');
  return (
    <div className="outlets">
      <CopyField label={t('publish.pageLink')} value={links.page} copyLabel={t('publish.copyPage')} />
      <CopyField label={t('publish.feedLink')} value={links.feed} copyLabel={t('publish.copyFeed')} />
      <CopyField label={t('publish.webcalLink')} value={links.webcal} copyLabel={t('publish.copyWebcal')} />
      <CopyField
        label={t('publish.embedCode')}
        rows={4}
        value={`<iframe src="${links.embed}" title="${title}" style="width:100%;height:720px;border:0" loading="lazy"></iframe>`}
        copyLabel={t('publish.copyCode')}
      />
      <p className="quiet">{t('publish.refresh')}</p>
      <a href={links.page} target="_blank" rel="noopener">
        {t('publish.openPage')}
      </a>
    </div>
  );
};

/** The page and the feed through other eyes. */
const LookAs = ({ publication }: { publication: Publication }) => {
  const { t } = useTexts();
  const people = usePeople();
  const [look, setLook] = useState('members');
  const who =
    people.data?.people.find((p) => p.id === look)?.name ??
    t(`look.${look as 'members' | 'linkHolders' | 'everyone'}`, { defaultValue: '' });
  const link = (what: string) => `/api/publications/${publication.id}/look/${what}?look=${look}`;
  return (
    <div className="look-as">
      <Form.Select
        size="sm"
        aria-label={t('publish.lookAs')}
        title={t('publish.lookHint')}
        value={look}
        onChange={(e) => setLook(e.target.value)}
      >
        {(['members', 'linkHolders', 'everyone'] as const).map((audience) => (
          <option key={audience} value={audience}>
            {t('publish.lookAs')}: {t(`look.${audience}`)}
          </option>
        ))}
        {people.data?.people.map((p) => (
          <option key={p.id} value={p.id}>
            {t('publish.lookAs')}: {p.name}
          </option>
        ))}
      </Form.Select>
      <a href={link('page')} target="_blank" rel="noopener">
        {t('publish.lookPage', { who })}
      </a>
      <a href={link('feed.ics')}>{t('publish.lookFeed', { who })}</a>
    </div>
  );
};

const ProofStrip = ({ proof }: { proof: Proof }) => {
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
    </div>
  );
};
