import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import Button from 'react-bootstrap/Button';
import ButtonGroup from 'react-bootstrap/ButtonGroup';
import Form from 'react-bootstrap/Form';
import { api, type ApiProblem, type Calendar, type Choices, type Detail, type Publication } from '../shared/api/client';
import { FieldProblem } from '../shared/parts/FieldProblem';
import { problemText, useTexts } from '../shared/i18n';
import { DETAILS } from '../shared/reach';
import { inTree } from '../event/fields/FactFields';
import { useLists } from '../shared/data/useLists';
import { MARKS } from '../shared/parts/Spine';

interface Props {
  choices: Choices;
  onChoices: (choices: Choices) => void;
}

interface TypedProps extends Props {
  problem: ApiProblem | null;
}

/** A field that counts once it is left or Enter is pressed: what is out changes with every choice. */
export const Settled = ({
  label,
  value,
  onValue,
  isBare,
  ...rest
}: {
  label: string;
  value: string;
  onValue: (value: string) => void;
  /** Whether its label is left to who does not see it. */
  isBare?: boolean;
  type?: string;
  min?: number;
  maxLength?: number;
  placeholder?: string;
}) => {
  const [typed, setTyped] = useState<string | null>(null);
  const settle = () => {
    if (typed !== null && typed !== value) onValue(typed);
    setTyped(null);
  };
  return (
    <label>
      {isBare ? <span className="visually-hidden">{label}</span> : label}
      <Form.Control
        size="sm"
        value={typed ?? value}
        onChange={(e) => setTyped(e.target.value)}
        onBlur={settle}
        onKeyDown={(e) => e.key === 'Enter' && settle()}
        {...rest}
      />
    </label>
  );
};

interface OneProps extends Props {
  calendar: Calendar;
  /** What its reach gives the publication's audience. */
  gives: Detail;
}

/** How one calendar stands in the publication: less of it than its reach gives, and a short name. */
export const OneCalendar = ({ calendar, gives, choices, onChoices }: OneProps) => {
  const { t } = useTexts();
  const all = choices.calendars ?? [];
  const own = all.find((c) => c.calendarId === calendar.id) ?? {
    calendarId: calendar.id,
    most: 'everything' as const,
    tag: '',
    mark: null,
  };
  const set = (change: Partial<typeof own>) =>
    onChoices({ ...choices, calendars: [...all.filter((c) => c !== own), { ...own, ...change }] });
  const most = own.most ?? 'everything';
  const shown = DETAILS.indexOf(most) < DETAILS.indexOf(gives) ? most : gives;
  return (
    <div className="one-calendar">
      <Form.Select
        size="sm"
        aria-label={t('publish.mostOf', { calendar: calendar.title })}
        value={shown}
        onChange={(e) => {
          const picked = e.target.value as Detail;
          set({ most: picked === gives ? 'everything' : picked });
        }}
      >
        {DETAILS.slice(1, DETAILS.indexOf(gives) + 1).map((detail) => (
          <option key={detail} value={detail}>
            {t(`reach.${detail}`)}
          </option>
        ))}
      </Form.Select>
      <Form.Select
        size="sm"
        aria-label={t('publish.markOf', { calendar: calendar.title })}
        value={own.mark ?? ''}
        onChange={(e) => set({ mark: e.target.value ? Number(e.target.value) : null })}
      >
        <option value="">{t('publish.markOwn')}</option>
        {MARKS.map((mark) => (
          <option key={mark} value={mark}>
            {t('publish.mark', { mark })}
          </option>
        ))}
      </Form.Select>
      <Settled
        isBare
        label={t('publish.tagOf')}
        placeholder={t('publish.tagOf')}
        value={own.tag ?? ''}
        maxLength={12}
        onValue={(tag) => set({ tag })}
      />
    </div>
  );
};

/** Which events, and for which days. */
export const Narrowing = ({ choices, problem, onChoices }: TypedProps) => {
  const { t } = useTexts();
  const lists = useLists();
  const set = (change: Partial<Choices>) => onChoices({ ...choices, ...change });
  const days = (text: string): number | null => (text.trim() === '' ? null : Math.trunc(Number(text)));
  const chosen = choices.categoryIds ?? [];
  const isNarrowed =
    chosen.length > 0 ||
    (choices.tags ?? []).length > 0 ||
    choices.text !== '' ||
    choices.kinds !== 'all' ||
    choices.hidesCalledOff ||
    choices.daysBack !== null ||
    choices.daysAhead !== null;
  return (
    <details className="narrowing" open={isNarrowed || undefined}>
      <summary>{t(isNarrowed ? 'publish.narrowed' : 'publish.narrow')}</summary>
      <div className="narrowing-fields">
        {lists.categories.length > 0 && (
          <fieldset className="checks-line">
            <legend>{t('publish.onlyCategories')}</legend>
            {inTree(lists.categories).map((c) => (
              <Form.Check
                key={c.id}
                inline
                id={`category-${c.id}`}
                label={c.name}
                checked={chosen.includes(c.id ?? '')}
                onChange={(e) =>
                  set({
                    categoryIds: e.target.checked ? [...chosen, c.id ?? ''] : chosen.filter((id) => id !== c.id),
                  })
                }
              />
            ))}
          </fieldset>
        )}
        <Form.Select
          size="sm"
          aria-label={t('publish.kinds')}
          value={choices.kinds}
          onChange={(e) => set({ kinds: e.target.value as Choices['kinds'] })}
        >
          {(['all', 'oneTime', 'series'] as const).map((kind) => (
            <option key={kind} value={kind}>
              {t(`publish.kind.${kind}`)}
            </option>
          ))}
        </Form.Select>
        <Settled
          label={t('publish.onlyTags')}
          value={(choices.tags ?? []).join(', ')}
          onValue={(text) =>
            set({
              tags: text
                .split(',')
                .map((tag) => tag.trim().replace(/^#/, ''))
                .filter(Boolean),
            })
          }
        />
        <Settled
          label={t('publish.onlyText')}
          value={choices.text ?? ''}
          maxLength={100}
          onValue={(text) => set({ text })}
        />
        <Settled
          label={t('publish.daysBack')}
          type="number"
          min={0}
          placeholder={t('publish.allDays')}
          value={choices.daysBack?.toString() ?? ''}
          onValue={(text) => set({ daysBack: days(text) })}
        />
        <Settled
          label={t('publish.daysAhead')}
          type="number"
          min={0}
          placeholder={t('publish.allDays')}
          value={choices.daysAhead?.toString() ?? ''}
          onValue={(text) => set({ daysAhead: days(text) })}
        />
        <Form.Check
          id="hides-called-off"
          label={t('publish.hidesCalledOff')}
          checked={choices.hidesCalledOff}
          onChange={(e) => set({ hidesCalledOff: e.target.checked })}
        />
      </div>
      <FieldProblem
        text={
          problem?.field?.startsWith('choices.days') || problem?.code === 'too_many_parts'
            ? problemText(t, problem)
            : null
        }
      />
      {choices.daysAhead !== null && <p className="quiet">{t('publish.wholeSeries')}</p>}
    </details>
  );
};

/** Whom a publication can be for. */
export const FOR = ['everyone', 'linkHolders', 'members'] as const;
export type For = (typeof FOR)[number];

interface WhomProps extends TypedProps {
  audience: For;
  onAudience: (audience: For) => void;
}

// A moment as the browser's field has it, on this browser's clock.
const fieldOf = (moment: string | null | undefined): string => {
  if (!moment) return '';
  const date = new Date(moment);
  return new Date(date.getTime() - date.getTimezoneOffset() * 60_000).toISOString().slice(0, 16);
};
const momentOf = (text: string): string | null => (text ? new Date(text).toISOString().replace('.000Z', 'Z') : null);

/** For everybody, or for who has the link; and for how long. */
export const ForWhom = ({ audience, choices, problem, onAudience, onChoices }: WhomProps) => {
  const { t } = useTexts();
  return (
    <>
      <ButtonGroup size="sm" aria-label={t('publish.who')}>
        {FOR.map((one) => (
          <Button
            key={one}
            variant="outline-primary"
            active={audience === one}
            aria-pressed={audience === one}
            onClick={() => onAudience(one)}
          >
            {t(`publish.audienceShort.${one}`)}
          </Button>
        ))}
      </ButtonGroup>
      <p className="quiet for-hint">{t(`publish.audienceHint.${audience}`)}</p>
      <details className="narrowing" open={choices.from !== null || choices.until !== null || undefined}>
        <summary>{t('publish.schedule')}</summary>
        <div className="narrowing-fields">
          <Settled
            label={t('publish.from')}
            type="datetime-local"
            value={fieldOf(choices.from)}
            onValue={(text) => onChoices({ ...choices, from: momentOf(text) })}
          />
          <Settled
            label={t('publish.until')}
            type="datetime-local"
            value={fieldOf(choices.until)}
            onValue={(text) => onChoices({ ...choices, until: momentOf(text) })}
          />
        </div>
        <FieldProblem text={problem?.code === 'schedule_order' ? problemText(t, problem) : null} />
      </details>
    </>
  );
};

interface ToolsProps {
  publication: Publication;
  /** Does something with it as it is when its turn has come. */
  onRun: (work: (now: Publication) => Promise<Publication>) => Promise<unknown>;
  onGo: (id: string) => void;
}

/** A new link for one that leaked, and a copy to go on from. */
export const LinkTools = ({ publication, onRun, onGo }: ToolsProps) => {
  const { t } = useTexts();
  const [asking, setAsking] = useState(false);
  return (
    <div className="link-tools">
      <Button variant="link" size="sm" aria-expanded={asking} onClick={() => setAsking(!asking)}>
        {t('publish.replaceLink')}
      </Button>
      <Button
        variant="link"
        size="sm"
        onClick={() =>
          void onRun(async () => {
            const copy = await api.duplicatePublication(publication.id);
            onGo(copy.id);
            return copy;
          })
        }
      >
        {t('publish.duplicate')}
      </Button>
      <HandOver onRun={onRun} />
      <SharedWith publication={publication} onRun={onRun} />
      {asking && (
        <div className="notice" role="alert">
          <p>{t('publish.replacing')}</p>
          <Button
            size="sm"
            variant="danger"
            onClick={() => void onRun((now) => api.replaceLink(now.id, now.version)).then(() => setAsking(false))}
          >
            {t('publish.replaceNow')}
          </Button>{' '}
          <Button size="sm" variant="outline-primary" onClick={() => setAsking(false)}>
            {t('cancel')}
          </Button>
        </div>
      )}
    </div>
  );
};

/** Gives the publication to somebody else, who has it from then on. */
const HandOver = ({ onRun }: Pick<ToolsProps, 'onRun'>) => {
  const { t } = useTexts();
  const [isOpen, setOpen] = useState(false);
  const people = useQuery({ queryKey: ['people'], queryFn: api.people, enabled: isOpen });
  return (
    <>
      <Button variant="link" size="sm" aria-expanded={isOpen} onClick={() => setOpen(!isOpen)}>
        {t('publish.handOver')}
      </Button>
      {isOpen && (
        <Form.Select
          size="sm"
          aria-label={t('publish.handOverTo')}
          value=""
          onChange={(e) => {
            const to = e.target.value;
            void onRun((now) => api.handOverPublication(now.id, to, now.version)).then(() => setOpen(false));
          }}
        >
          <option value="">{t('publish.handOverTo')}</option>
          {people.data?.people.map((p) => (
            <option key={p.id} value={p.id}>
              {p.name}
            </option>
          ))}
        </Form.Select>
      )}
    </>
  );
};

/** Who else changes it. */
const SharedWith = ({ publication, onRun }: Omit<ToolsProps, 'onGo'>) => {
  const { t } = useTexts();
  const shared = publication.sharedWith ?? [];
  const [isOpen, setOpen] = useState(shared.length > 0);
  const people = useQuery({ queryKey: ['people'], queryFn: api.people, enabled: isOpen });
  const share = (personId: string, isShared: boolean) =>
    void onRun((now) => {
      const others = (now.sharedWith ?? []).filter((id) => id !== personId);
      return api.sharePublication(now.id, isShared ? [...others, personId] : others, now.version);
    });
  const all = people.data?.people ?? [];
  return (
    <>
      <Button variant="link" size="sm" aria-expanded={isOpen} onClick={() => setOpen(!isOpen)}>
        {t('publish.share')}
      </Button>
      {isOpen && (
        <div className="shared-with">
          <ul aria-label={t('publish.sharedWith')}>
            {all
              .filter((p) => shared.includes(p.id))
              .map((p) => (
                <li key={p.id}>
                  {p.name}{' '}
                  <Button
                    variant="link"
                    size="sm"
                    aria-label={t('publish.unshareFrom', { name: p.name })}
                    onClick={() => share(p.id, false)}
                  >
                    {t('publish.unshare')}
                  </Button>
                </li>
              ))}
          </ul>
          <Form.Select
            size="sm"
            aria-label={t('publish.shareWith')}
            value=""
            onChange={(e) => share(e.target.value, true)}
          >
            <option value="">{t('publish.shareWith')}</option>
            {all
              .filter((p) => !shared.includes(p.id) && p.name !== publication.owner)
              .map((p) => (
                <option key={p.id} value={p.id}>
                  {p.name}
                </option>
              ))}
          </Form.Select>
        </div>
      )}
    </>
  );
};

/** How feeds write titles, with what becomes of one. */
export const TitlePattern = ({ choices, calendars, problem, onChoices }: TypedProps & { calendars: Calendar[] }) => {
  const { t } = useTexts();
  const pattern = choices.titlePattern ?? '{title}';
  const calendar = calendars[0];
  const asked = {
    pattern,
    title: t('publish.sampleTitle'),
    calendar: calendar?.title ?? '',
    tag: choices.calendars?.find((c) => c.calendarId === calendar?.id)?.tag ?? '',
    place: t('publish.samplePlace'),
  };
  const sample = useQuery({
    queryKey: ['sample-title', asked],
    queryFn: () => api.sampleTitle(asked),
    placeholderData: keepPreviousData,
    staleTime: Infinity,
  }).data?.title;
  return (
    <div className="title-pattern">
      <Settled
        label={t('publish.pattern')}
        value={pattern}
        maxLength={100}
        onValue={(titlePattern) => onChoices({ ...choices, titlePattern })}
      />
      <p className="quiet">{sample !== undefined && t('publish.patternSample', { sample })}</p>
      <FieldProblem text={problem?.field === 'choices.titlePattern' ? problemText(t, problem) : null} />
    </div>
  );
};
