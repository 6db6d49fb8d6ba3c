import { useState, type KeyboardEvent } from 'react';
import Button from 'react-bootstrap/Button';
import Form from 'react-bootstrap/Form';
import type { ApiProblem, Calendar, Category, EventLink } from '../../shared/api/client';
import { FieldProblem } from '../../shared/parts/FieldProblem';
import { problemText, useTexts } from '../../shared/i18n';
import { DETAILS } from '../../shared/reach';
import { markClass, Spine } from '../../shared/parts/Spine';
import type { DraftFacts } from '../draft/draft';
import { FilesField } from './FilesField';
import { LinkChecks } from './LinkChecks';
import { PictureField } from './PictureField';
import { mayEdit, mayOffer } from '../../shared/data/rights';
import { SheetRow } from '../../shared/parts/Sheet';
import { useLists } from '../../shared/data/useLists';
import './fields.scss';

interface Props {
  facts: DraftFacts;
  home: string;
  calendars: Calendar[];
  problem: ApiProblem | null;
  /** The saved event; null for a new one. */
  eventId: string | null;
  /** Whether one date of a series is meant: then only what it can have of its own. */
  isOneDate?: boolean;
  onFacts: (change: (facts: DraftFacts) => DraftFacts) => void;
}

const MARKS = Array.from({ length: 12 }, (_, i) => i + 1);
const REMINDERS = [0, 10, 30, 60, 120, 24 * 60, 2 * 24 * 60, 7 * 24 * 60];
const LINK_KINDS = ['more', 'register', 'tickets', 'video'] as const;

/** The categories in order, those that are part of another below it. */
export const inTree = (categories: Category[]): Category[] =>
  categories.filter((c) => !c.parentId).flatMap((top) => [top, ...categories.filter((c) => c.parentId === top.id)]);

/** What an event, or one of its dates, has beside its title, times and place. */
export const FactFields = ({ facts, home, calendars, problem, eventId, isOneDate = false, onFacts }: Props) => {
  const { t } = useTexts();
  const lists = useLists();
  const set = (change: Partial<DraftFacts>) => onFacts((now) => ({ ...now, ...change }));
  const wrong = (field: string) => (problem?.field?.startsWith(`facts.${field}`) ? problemText(t, problem) : null);
  const places = facts.alsoIn.map((id) => calendars.find((c) => c.id === id)).filter((c) => c !== undefined);

  return (
    <>
      <SheetRow label={t('facts.sorted')}>
        <Form.Select
          aria-label={t('facts.category')}
          value={facts.categoryId ?? ''}
          onChange={(e) => set({ categoryId: e.target.value || null })}
        >
          <option value="">{t('facts.noCategory')}</option>
          {inTree(lists.categories)
            // Who sees what is decided of whole events: one date cannot show less than the others.
            .filter((c) => !isOneDate || !c.reach || c.id === facts.categoryId)
            .map((c) => (
              <option key={c.id} value={c.id ?? ''}>
                {c.parentId ? `– ${c.name}` : c.name}
              </option>
            ))}
        </Form.Select>
        <FieldProblem text={wrong('categoryId')} />
        <Tags tags={facts.tags} onTags={(tags) => set({ tags })} />
        <FieldProblem text={wrong('tags')} />
      </SheetRow>
      {!isOneDate && (
        <SheetRow label={t('facts.alsoIn')}>
          {places.length > 0 && (
            <ul className="placements" aria-label={t('facts.alsoInList')}>
              {places.map((c) => (
                <li key={c.id} className={markClass(c.mark)}>
                  <Spine /> {mayEdit(c) ? c.title : t('proposal.asked', { calendar: c.title })}
                  <Form.Select
                    size="sm"
                    aria-label={t('facts.limitIn', { calendar: c.title })}
                    value={facts.limits.find((l) => l.calendarId === c.id)?.most ?? 'everything'}
                    onChange={(e) => {
                      const most = DETAILS.find((d) => d === e.target.value);
                      const others = facts.limits.filter((l) => l.calendarId !== c.id);
                      if (most)
                        set({ limits: most === 'everything' ? others : [...others, { calendarId: c.id, most }] });
                    }}
                  >
                    {DETAILS.toReversed().map((d) => (
                      <option key={d} value={d}>
                        {d === 'everything' ? t('facts.asCalendar') : t(`reach.detail.${d}`)}
                      </option>
                    ))}
                  </Form.Select>
                  <Button
                    variant="link"
                    size="sm"
                    aria-label={t('facts.takeOut', { calendar: c.title })}
                    onClick={() => set({ alsoIn: facts.alsoIn.filter((id) => id !== c.id) })}
                  >
                    {t('facts.takeOutShort')}
                  </Button>
                </li>
              ))}
            </ul>
          )}
          <Form.Select
            aria-label={t('facts.putIn')}
            value=""
            onChange={(e) => e.target.value && set({ alsoIn: [...facts.alsoIn, e.target.value] })}
          >
            <option value="">{t('facts.putIn')}</option>
            {calendars
              .filter((c) => c.id !== home && mayOffer(c) && !facts.alsoIn.includes(c.id))
              .map((c) => (
                <option key={c.id} value={c.id}>
                  {mayEdit(c) ? c.title : t('proposal.asked', { calendar: c.title })}
                </option>
              ))}
          </Form.Select>
          <FieldProblem text={wrong('alsoIn')} />
        </SheetRow>
      )}
      <SheetRow label={t('facts.links')}>
        <Links links={facts.links} onLinks={(links) => set({ links })} />
        <FieldProblem text={wrong('links')} />
        <LinkChecks links={facts.links} />
      </SheetRow>
      <FilesField
        files={facts.files}
        eventId={eventId}
        problem={wrong('files')}
        onFiles={(change) => onFacts((now) => ({ ...now, files: change(now.files) }))}
      />
      {isOneDate ? (
        <p className="quiet">{t('facts.ofEvery')}</p>
      ) : (
        <>
          <PictureField picture={facts.picture} onPicture={(picture) => set({ picture })} />
          <SheetRow label={t('facts.other')}>
            <div className="other-facts">
              <Form.Check
                id="is-draft"
                label={t('facts.draft')}
                checked={facts.isDraft}
                onChange={(e) => set({ isDraft: e.target.checked })}
              />
              <Form.Check
                id="is-free"
                label={t('facts.free')}
                checked={facts.isFree}
                onChange={(e) => set({ isFree: e.target.checked })}
              />
              <Form.Select
                aria-label={t('facts.reminder')}
                value={facts.reminder ?? ''}
                onChange={(e) => set({ reminder: e.target.value === '' ? null : Number(e.target.value) })}
              >
                <option value="">{t('facts.noReminder')}</option>
                {[...new Set([...REMINDERS, ...(facts.reminder === null ? [] : [facts.reminder])])]
                  .sort((a, b) => a - b)
                  .map((minutes) => (
                    <option key={minutes} value={minutes}>
                      {t('facts.remind', { time: spanText(minutes, t) })}
                    </option>
                  ))}
              </Form.Select>
              <label className="repeat-line">
                {t('facts.size')}
                <Form.Control
                  type="number"
                  size="sm"
                  min={1}
                  value={facts.size ?? ''}
                  isInvalid={wrong('size') !== null}
                  onChange={(e) => set({ size: e.target.value === '' ? null : Math.trunc(Number(e.target.value)) })}
                />
              </label>
              <FieldProblem text={wrong('size')} />
              <div className="event-marks" role="group" aria-label={t('facts.mark')}>
                <button type="button" aria-pressed={facts.mark === null} onClick={() => set({ mark: null })}>
                  {t('facts.ownMark')}
                </button>
                {MARKS.map((mark) => (
                  <button
                    key={mark}
                    type="button"
                    className={markClass(mark)}
                    aria-pressed={facts.mark === mark}
                    aria-label={t('facts.markNumber', { mark })}
                    onClick={() => set({ mark })}
                  >
                    <Spine />
                  </button>
                ))}
              </div>
            </div>
          </SheetRow>
        </>
      )}
    </>
  );
};

export const spanText = (minutes: number, t: ReturnType<typeof useTexts>['t']): string => {
  if (minutes === 0) return t('facts.atStart');
  if (minutes % 1440 === 0) return t('facts.daysBefore', { count: minutes / 1440 });
  if (minutes % 60 === 0) return t('facts.hoursBefore', { count: minutes / 60 });
  return t('facts.minutesBefore', { count: minutes });
};

/** Tags as words; Enter or a comma makes one. */
const Tags = ({ tags, onTags }: { tags: string[]; onTags: (tags: string[]) => void }) => {
  const { t } = useTexts();
  const [text, setText] = useState('');
  const add = () => {
    const typed = text
      .split(',')
      .map((tag) => tag.trim().replace(/^#/, ''))
      .filter(Boolean);
    if (typed.length > 0) onTags([...tags, ...typed.filter((tag) => !tags.includes(tag))]);
    setText('');
  };
  const key = (e: KeyboardEvent) => {
    if (e.key === 'Enter' || e.key === ',') {
      if (!text.trim()) return;
      e.preventDefault();
      add();
    } else if (e.key === 'Backspace' && text === '' && tags.length > 0) {
      onTags(tags.slice(0, -1));
    }
  };
  return (
    <div className="tags">
      {tags.map((tag) => (
        <button
          key={tag}
          type="button"
          className="tag"
          aria-label={t('facts.removeTag', { tag })}
          onClick={() => onTags(tags.filter((other) => other !== tag))}
        >
          #{tag} ×
        </button>
      ))}
      <Form.Control
        size="sm"
        aria-label={t('facts.tags')}
        placeholder={tags.length === 0 ? t('facts.tagsPlaceholder') : ''}
        value={text}
        onChange={(e) => setText(e.target.value)}
        onKeyDown={key}
        onBlur={add}
      />
    </div>
  );
};

const Links = ({ links, onLinks }: { links: EventLink[]; onLinks: (links: EventLink[]) => void }) => {
  const { t } = useTexts();
  const set = (at: number, change: Partial<EventLink>) =>
    onLinks(links.map((link, i) => (i === at ? { ...link, ...change } : link)));
  return (
    <>
      {links.map((link, i) => (
        <div key={i} className="link-fields" role="group" aria-label={t('facts.link', { number: i + 1 })}>
          <Form.Select
            size="sm"
            aria-label={t('facts.linkFor')}
            value={link.kind}
            onChange={(e) => set(i, { kind: e.target.value as EventLink['kind'] })}
          >
            {LINK_KINDS.map((kind) => (
              <option key={kind} value={kind}>
                {t(`facts.linkKind.${kind}`)}
              </option>
            ))}
          </Form.Select>
          <Button
            variant="link"
            size="sm"
            aria-label={t('facts.removeLink', { number: i + 1 })}
            onClick={() => onLinks(links.filter((_, other) => other !== i))}
          >
            {t('facts.takeOutShort')}
          </Button>
          <Form.Control
            size="sm"
            type="url"
            aria-label={t('facts.address')}
            placeholder="https://"
            value={link.address}
            onChange={(e) => set(i, { address: e.target.value })}
          />
          <Form.Control
            size="sm"
            aria-label={t('facts.linkLabel')}
            placeholder={t('facts.linkLabel')}
            value={link.label}
            onChange={(e) => set(i, { label: e.target.value })}
          />
        </div>
      ))}
      <Button
        variant="outline-primary"
        size="sm"
        onClick={() => onLinks([...links, { kind: 'more', label: '', address: '' }])}
      >
        {t('facts.addLink')}
      </Button>
    </>
  );
};
