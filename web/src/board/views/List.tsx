import { useRef, useState, type ReactNode } from 'react';
import Button from 'react-bootstrap/Button';
import Form from 'react-bootstrap/Form';
import {
  api,
  ApiProblem,
  asProblem,
  type BulkInput,
  type Calendar,
  type Occurrence,
  type Reach,
} from '../../shared/api/client';
import { clockText, dayRangeText, longDay, shortDay } from '../../shared/dates';
import { problemText, useTexts } from '../../shared/i18n';
import { markClass, Spine } from '../../shared/parts/Spine';
import { useActions } from '../../shared/data/actions';
import type { BoardProps } from '../boardProps';
import { NO_SHIFT } from '../gestures/shift';
import { useBoardHands } from '../gestures/useBoardHands';
import { inTree } from '../../event/fields/FactFields';
import { isOnlyProposed, occurrenceKey } from '../../shared/occurrences';
import { COLUMNS, filtered, NO_FILTER, sorted, type Column, type Filter, type Flag } from './listRows';
import { seenIn } from './seenIn';
import { LimitSelect } from '../../shared/parts/LimitSelect';
import { mayEdit } from '../../shared/data/rights';
import { useLists } from '../../shared/data/useLists';
import './list.scss';

interface Props extends BoardProps {
  /** Shows another number of days. */
  onSpan: (days: number) => void;
}

const SPANS = [14, 63, 182, 365] as const;
/** Rows drawn at once; more on demand. */
const PIECE = 300;

const FLAGS: Flag[] = ['withPlace', 'withoutPlace', 'draft', 'calledOff', 'changed', 'shortNotice'];

/** Day by day, for checking, choosing and changing many at once. */
export const List = ({ data, calendars, from, days, today, chosen, onChoose, onSpan }: Props) => {
  const { t, language } = useTexts();
  const lists = useLists();
  const [isUnfolded, setUnfolded] = useState(false);
  const board = useRef<HTMLDivElement>(null);
  const [filter, setFilter] = useState<Filter>(NO_FILTER);
  const [sort, setSort] = useState<{ column: Column; down: boolean }>({ column: 'when', down: false });
  const [picked, setPicked] = useState<Set<string>>(new Set());
  const categories = new Map(lists.categories.map((c) => [c.id ?? '', c.name]));
  const { seen: inWindow, calendarOf } = seenIn(data.occurrences, calendars, from, days);
  const tags = [...new Set(inWindow.flatMap((o) => o.tags))].sort();
  const rows = sorted(
    filtered(inWindow, filter, lists.categories),
    sort.column,
    sort.down,
    (o) => calendarOf(o)?.title ?? '',
    (o) => categories.get(o.categoryId ?? '') ?? '',
  );
  const homes = new Map(data.calendars.map((c) => [c.id, c]));
  const [most, setMost] = useState(PIECE);
  const hands = useBoardHands({
    board,
    calendars,
    occurrences: rows.filter((o) => !isOnlyProposed(o) && mayEdit(homes.get(o.calendarId))),
    chosen,
    onChoose,
    onDraw: () => undefined,
    // Day by day: earlier stands above.
    step: (key) => {
      const by = { ArrowUp: -1, ArrowLeft: -1, ArrowDown: 1, ArrowRight: 1 }[key];
      return by ? { ...NO_SHIFT, days: by } : null;
    },
  });
  const chosenRows = rows.filter((o) => picked.has(occurrenceKey(o)));
  const set = (change: Partial<Filter>) => setFilter({ ...filter, ...change });
  const isFiltered = JSON.stringify(filter) !== JSON.stringify(NO_FILTER);

  const cells: Record<Column, (o: Occurrence) => ReactNode> = {
    when: (o) => (
      <span className={o.firstDay <= today && today <= o.lastDay ? 'list-today' : ''}>
        {o.firstDay === o.lastDay ? shortDay(o.firstDay, language) : dayRangeText(o.firstDay, o.lastDay, language)}{' '}
        <span className="list-time">
          {o.allDay ? t('allDay') : `${clockText(o.start, language)}–${clockText(o.end, language)}`}
        </span>
      </span>
    ),
    title: (o) => (
      <button
        type="button"
        className={`list-title${o.isCalledOff ? ' is-off' : ''}`}
        data-entry={occurrenceKey(o)}
        aria-pressed={chosen?.kind === 'event' && occurrenceKey(chosen.occurrence) === occurrenceKey(o)}
        onClick={() => onChoose({ kind: 'event', occurrence: o })}
      >
        {o.title || t('entry.taken')}
      </button>
    ),
    calendar: (o) => {
      const calendar = calendarOf(o);
      return (
        calendar && (
          <span className={`list-calendar ${markClass(o.mark ?? calendar.mark)}`}>
            <Spine /> {calendar.title}
          </span>
        )
      );
    },
    place: (o) => o.place,
    category: (o) => categories.get(o.categoryId ?? '') ?? '',
    tags: (o) => o.tags.map((tag) => `#${tag}`).join(' '),
    notes: (o) =>
      [
        o.isDraft && t('entry.draft'),
        o.isCalledOff && t('entry.calledOff'),
        o.isChanged && !o.isCalledOff && t('entry.changed'),
        o.isShortNotice && t('entry.shortNotice'),
        o.isSeries && t('list.series'),
      ]
        .filter(Boolean)
        .join(', '),
  };

  return (
    <div className="board list" ref={board} {...hands.handlers}>
      {hands.ghost}
      <Button
        className="list-unfold"
        size="sm"
        variant="outline-primary"
        aria-expanded={isUnfolded}
        onClick={() => setUnfolded(!isUnfolded)}
      >
        {t('list.unfold')}
      </Button>
      <div
        className={isUnfolded ? 'list-filters is-unfolded' : 'list-filters'}
        role="search"
        aria-label={t('list.filters')}
      >
        <Form.Control
          size="sm"
          type="search"
          aria-label={t('list.text')}
          placeholder={t('list.text')}
          value={filter.text}
          onChange={(e) => set({ text: e.target.value })}
        />
        <Choice
          label={t('list.anyCalendar')}
          value={filter.calendarId}
          options={calendars.map((c) => [c.id, c.title])}
          onPick={(calendarId) => set({ calendarId })}
        />
        <Choice
          label={t('list.anyCategory')}
          value={filter.categoryId}
          options={inTree(lists.categories).map((c) => [c.id ?? '', c.name])}
          onPick={(categoryId) => set({ categoryId })}
        />
        <Choice
          label={t('list.anyTag')}
          value={filter.tag}
          options={tags.map((tag) => [tag, `#${tag}`])}
          onPick={(tag) => set({ tag })}
        />
        <Choice
          label={t('list.anyKind')}
          value={filter.flag}
          options={FLAGS.map((flag) => [flag, t(`list.flag.${flag}`)])}
          onPick={(flag) => set({ flag: flag as Flag | '' })}
        />
        {isFiltered && (
          <Button variant="link" size="sm" onClick={() => setFilter(NO_FILTER)}>
            {t('list.clear')}
          </Button>
        )}
        <Form.Select
          size="sm"
          aria-label={t('list.span')}
          value={SPANS.find((span) => span === days) ?? ''}
          onChange={(e) => onSpan(Number(e.target.value))}
        >
          {!SPANS.some((span) => span === days) && <option value="">{t('list.days', { count: days })}</option>}
          {SPANS.map((span) => (
            <option key={span} value={span}>
              {t(`list.spans.${span}`)}
            </option>
          ))}
        </Form.Select>
        <span className="quiet" role="status">
          {t('list.count', { count: rows.length })}
        </span>
      </div>
      {chosenRows.length > 0 && (
        <BulkBar
          rows={chosenRows}
          calendars={calendars}
          onDone={(left) => setPicked(new Set(left.map(occurrenceKey)))}
        />
      )}
      {rows.length === 0 ? (
        <p className="board-empty quiet">{isFiltered ? t('list.noneLeft') : t('list.none')}</p>
      ) : (
        <table>
          <thead>
            <tr>
              <th scope="col">
                <Form.Check
                  id="pick-all"
                  aria-label={t('list.pickAll')}
                  checked={chosenRows.length === rows.length}
                  onChange={(e) => setPicked(new Set(e.target.checked ? rows.map(occurrenceKey) : []))}
                />
              </th>
              {COLUMNS.map((column) => (
                <th
                  key={column}
                  scope="col"
                  aria-sort={sort.column === column ? (sort.down ? 'descending' : 'ascending') : 'none'}
                >
                  <button type="button" onClick={() => setSort({ column, down: sort.column === column && !sort.down })}>
                    {t(`list.column.${column}`)} {sort.column === column && (sort.down ? '↓' : '↑')}
                  </button>
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {rows.slice(0, most).map((o) => {
              const key = occurrenceKey(o);
              return (
                <tr key={key} data-day={o.firstDay} className={picked.has(key) ? 'is-picked' : ''}>
                  <td>
                    <Form.Check
                      id={`pick-${key}`}
                      aria-label={t('list.pick', { title: o.title, day: longDay(o.firstDay, language) })}
                      checked={picked.has(key)}
                      onChange={() => {
                        const next = new Set(picked);
                        if (!next.delete(key)) next.add(key);
                        setPicked(next);
                      }}
                    />
                  </td>
                  {COLUMNS.map((column) => (
                    <td key={column} data-column={column}>
                      {cells[column](o)}
                    </td>
                  ))}
                </tr>
              );
            })}
          </tbody>
        </table>
      )}
      {rows.length > most && (
        <Button variant="outline-primary" className="list-more" onClick={() => setMost(most + PIECE)}>
          {t('list.more', { count: rows.length - most })}
        </Button>
      )}
    </div>
  );
};

interface ChoiceProps {
  label: string;
  value: string;
  options: [string, string][];
  onPick: (value: string) => void;
}

const Choice = ({ label, value, options, onPick }: ChoiceProps) => (
  <Form.Select size="sm" aria-label={label} value={value} onChange={(e) => onPick(e.target.value)}>
    <option value="">{label}</option>
    {options.map(([id, name]) => (
      <option key={id} value={id}>
        {name}
      </option>
    ))}
  </Form.Select>
);

type Verb =
  | 'moveDays'
  | 'time'
  | 'alsoIn'
  | 'copyDates'
  | 'copySeries'
  | 'calendar'
  | 'place'
  | 'category'
  | 'tags'
  | 'reach'
  | 'takeOut'
  | 'callOff'
  | 'callOn'
  | 'draft'
  | 'publish'
  | 'delete';

const VERBS: Verb[] = [
  'moveDays',
  'time',
  'alsoIn',
  'copyDates',
  'copySeries',
  'calendar',
  'place',
  'category',
  'tags',
  'reach',
  'takeOut',
  'callOff',
  'callOn',
  'draft',
  'publish',
  'delete',
];

/** Hands a file to the browser, as a download does. */
const saveAs = (file: Blob, name: string) => {
  const address = URL.createObjectURL(file);
  const link = Object.assign(document.createElement('a'), { href: address, download: name });
  link.click();
  URL.revokeObjectURL(address);
};

interface BulkProps {
  rows: Occurrence[];
  calendars: Calendar[];
  /** What was left as it is stays chosen. */
  onDone: (left: Occurrence[]) => void;
}

/** One change for all that is chosen, with one way back. */
const BulkBar = ({ rows, calendars, onDone }: BulkProps) => {
  const { t } = useTexts();
  const lists = useLists();
  const actions = useActions();
  const [verb, setVerb] = useState<Verb>('moveDays');
  const [value, setValue] = useState('7');
  const [reach, setReach] = useState<Reach | null>(null);
  const [problem, setProblem] = useState<string | null>(null);
  const [busy, setBusy] = useState(false);

  const input = (): Partial<BulkInput> => {
    switch (verb) {
      case 'moveDays':
        return { moveDays: Math.trunc(Number(value)) };
      case 'time':
        return { startsAt: `${value}:00` };
      case 'alsoIn':
        return { alsoIn: value };
      case 'copyDates':
        return { copyTo: value };
      case 'copySeries':
        return { copyTo: value, copiesSeries: true };
      case 'calendar':
        return { calendarId: value };
      case 'place':
        return { place: value };
      case 'category':
        return { setsCategory: true, categoryId: value || null };
      case 'tags':
        return { addTags: value.split(/[,\s]+/).filter(Boolean) };
      case 'reach':
        return { setsReach: true, reach };
      case 'takeOut':
        return {};
      case 'callOff':
        return { isOff: true };
      case 'callOn':
        return { isOff: false };
      case 'draft':
        return { isDraft: true };
      case 'publish':
        return { isDraft: false };
      case 'delete':
        return { deletes: true };
    }
  };
  const ready = !['calendar', 'alsoIn', 'copyDates', 'copySeries', 'tags', 'time'].includes(verb) || value !== '';
  const run = async () => {
    setBusy(true);
    setProblem(null);
    try {
      if (verb === 'takeOut') {
        saveAs(await api.takeOutEvents([...new Set(rows.map((o) => o.eventId))]), 'events.ics');
        return;
      }
      const { left } = await actions.changeMany(rows, input());
      // What was left as it is stays chosen, and is named with its reason.
      const asItIs = new Set(left.map((l) => l.eventId));
      onDone(rows.filter((o) => asItIs.has(o.eventId)));
      if (left.length > 0) {
        const nameOf = (id: string) => rows.find((o) => o.eventId === id)?.title ?? '';
        setProblem(
          t('bulk.left', {
            count: left.length,
            list: left
              .map((l) => `“${nameOf(l.eventId)}”: ${problemText(t, new ApiProblem(422, l.code, l.message))}`)
              .join(' '),
          }),
        );
      }
    } catch (error) {
      setProblem(problemText(t, asProblem(error)));
    } finally {
      setBusy(false);
    }
  };
  return (
    <div className="bulk" role="group" aria-label={t('bulk.label')}>
      <strong>{t('bulk.chosen', { count: rows.length })}</strong>
      <Form.Select
        size="sm"
        aria-label={t('bulk.what')}
        value={verb}
        onChange={(e) => {
          setVerb(e.target.value as Verb);
          setValue(e.target.value === 'moveDays' ? '7' : '');
          setProblem(null);
        }}
      >
        {VERBS.map((one) => (
          <option key={one} value={one}>
            {t(`bulk.verb.${one}`)}
          </option>
        ))}
      </Form.Select>
      {verb === 'moveDays' && (
        <Form.Control
          size="sm"
          type="number"
          aria-label={t('bulk.days')}
          value={value}
          onChange={(e) => setValue(e.target.value)}
        />
      )}
      {(verb === 'place' || verb === 'tags') && (
        <Form.Control
          size="sm"
          aria-label={t(`bulk.verb.${verb}`)}
          list={verb === 'place' ? 'bulk-places' : undefined}
          value={value}
          onChange={(e) => setValue(e.target.value)}
        />
      )}
      {verb === 'place' && (
        <datalist id="bulk-places">
          {lists.places.map((p) => (
            <option key={p.name} value={p.name} />
          ))}
        </datalist>
      )}
      {verb === 'time' && (
        <Form.Control
          size="sm"
          type="time"
          aria-label={t('bulk.verb.time')}
          value={value}
          onChange={(e) => setValue(e.target.value)}
        />
      )}
      {verb === 'reach' && <LimitSelect label={t('bulk.verb.reach')} limit={reach} onLimit={setReach} />}
      {['calendar', 'alsoIn', 'copyDates', 'copySeries'].includes(verb) && (
        <Choice
          label={t('bulk.toCalendar')}
          value={value}
          options={calendars.filter(mayEdit).map((c) => [c.id, c.title])}
          onPick={setValue}
        />
      )}
      {verb === 'category' && (
        <Choice
          label={t('facts.noCategory')}
          value={value}
          options={inTree(lists.categories).map((c) => [c.id ?? '', c.name])}
          onPick={setValue}
        />
      )}
      <Button
        size="sm"
        variant={verb === 'delete' ? 'danger' : 'primary'}
        disabled={busy || !ready}
        onClick={() => void run()}
      >
        {t('bulk.do', { count: rows.length })}
      </Button>
      <span className="quiet">
        {['calendar', 'alsoIn', 'copySeries', 'takeOut', 'category', 'tags', 'reach', 'draft', 'publish'].includes(verb)
          ? t('bulk.whole')
          : t('bulk.dates')}
      </span>
      {problem && (
        <p className="notice notice-danger" role="alert">
          {problem}
        </p>
      )}
    </div>
  );
};
