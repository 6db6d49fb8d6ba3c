import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { useState, type SubmitEvent } from 'react';
import { useSearchParams } from 'react-router';
import Button from 'react-bootstrap/Button';
import Form from 'react-bootstrap/Form';
import {
  api,
  asProblem,
  type ApiProblem,
  type Bringing,
  type BringingInput,
  type BringingRow,
  type Calendar,
  type IntakeKind,
  type LaidOut,
  type Session,
  type TableColumn,
} from '../shared/api/client';
import { useActions } from '../shared/data/actions';
import { mayEdit } from '../shared/data/rights';
import { clockText, dayOf, formatDay } from '../shared/dates';
import { useTexts } from '../shared/i18n';
import { DateField } from '../shared/parts/DateField';
import { Told } from '../shared/parts/Told';
import { useDebounced } from '../shared/useDebounced';

interface Props {
  id: string;
  first: LaidOut | null;
  calendars: Calendar[];
  school: Session['school'];
  onClose: () => void;
}

const MEANINGS: TableColumn[] = [
  'nothing',
  'title',
  'date',
  'lastDate',
  'start',
  'end',
  'place',
  'category',
  'calendar',
  'description',
  'repeats',
  'link',
  'id',
];

/** Before anything is chosen. */
const NOTHING: BringingInput = { letsGo: false };

/** What comes, and what nothing becomes of unless somebody decides otherwise. */
const COMES: IntakeKind[] = ['new', 'changed'];

/** What one file would do, event by event; everything can be chosen before anything is saved. */
export const LaidFile = ({ id, first, calendars, school, onClose }: Props) => {
  const { t } = useTexts();
  const actions = useActions();
  // Pasted on a calendar's lane, it is meant for that one.
  const [params] = useSearchParams();
  const [choices, setChoices] = useState<BringingInput>(() => {
    const into = calendars.find((c) => c.id === params.get('into') && mayEdit(c));
    return into ? { ...NOTHING, calendarId: into.id } : NOTHING;
  });
  const [problem, setProblem] = useState<ApiProblem | null>(null);
  const [done, setDone] = useState<Bringing | null>(null);
  const [isBusy, setBusy] = useState(false);
  const asked = useDebounced(choices, 250);
  const look = useQuery({
    queryKey: ['bringing', id, asked],
    queryFn: () => api.lookBringing(id, asked),
    placeholderData: keepPreviousData,
    ...(first && asked === NOTHING && { initialData: first }),
    staleTime: 60_000,
  });
  const own = calendars.filter(mayEdit);
  const file = look.data;
  if (look.error && !file) return <Told problem={asProblem(look.error)} />;
  if (!file) return <p className="loading">{t('loading')}</p>;
  const { what } = file;
  const change = (next: Partial<BringingInput>) => {
    setProblem(null);
    setChoices({ ...choices, ...next });
  };
  const groups = what.groups.filter((g) => g.name !== '');
  // A bound that leaves nothing yet, until it is typed.
  const last = what.rows.map((r) => dayOf(r.end)).reduce((a, b) => (a > b ? a : b), school.today);
  const byGroup = choices.byGroup ?? {};
  const leaves = new Set(choices.leaves ?? []);
  const toggle = (key: string) => {
    const others = [...leaves].filter((other) => other !== key);
    change({ leaves: leaves.has(key) ? others : [...others, key] });
  };
  const coming = what.counts.filter((c) => COMES.includes(c.kind)).reduce((sum, c) => sum + c.count, 0);
  const going = choices.letsGo ? (what.counts.find((c) => c.kind === 'gone')?.count ?? 0) : 0;
  const isReady = !isBusy && !look.isPlaceholderData && asked === choices && coming + going > 0;
  // A form: what is typed in its fields is read first, and shown what it makes of the file, before anything comes.
  const bring = (e: SubmitEvent) => {
    e.preventDefault();
    if (!isReady) return;
    setBusy(true);
    setProblem(null);
    actions
      .bringIn(id, choices)
      .then(setDone)
      .catch((error: unknown) => setProblem(asProblem(error)))
      .finally(() => setBusy(false));
  };
  if (done)
    return (
      <div className="laid-done" role="status">
        <p>{done.counts.map((c) => t(`bring.count.${c.kind}`, { count: c.count })).join(' · ')}</p>
        <Button variant="outline-primary" onClick={onClose}>
          {t('bring.another')}
        </Button>
      </div>
    );
  return (
    <Form className="laid" noValidate onSubmit={bring}>
      <h3>
        {file.name}{' '}
        <span className="quiet">{t('bring.holds', { count: what.counts.reduce((s, c) => s + c.count, 0) })}</span>
      </h3>
      <div className="laid-choices">
        <Form.Group controlId="bring-all">
          <Form.Label>{t(groups.length > 1 ? 'bring.intoOthers' : 'bring.into')}</Form.Label>
          <Form.Select
            value={choices.calendarId ?? ''}
            onChange={(e) => change({ calendarId: e.target.value || null })}
          >
            <option value="">{t(groups.length > 1 ? 'bring.leaveOthers' : 'bring.chooseCalendar')}</option>
            <CalendarOptions calendars={own} />
          </Form.Select>
        </Form.Group>
        <Form.Group>
          <Form.Label>{t('bring.from')}</Form.Label>
          <Bound
            label={t('bring.from')}
            value={choices.from}
            near={school.today}
            onChange={(from) => change({ from })}
          />
        </Form.Group>
        <Form.Group>
          <Form.Label>{t('bring.to')}</Form.Label>
          <Bound label={t('bring.to')} value={choices.to} near={last} onChange={(to) => change({ to })} />
        </Form.Group>
      </div>
      {groups.length > 1 && (
        <fieldset className="laid-groups">
          <legend>{t('bring.byGroup')}</legend>
          {groups.some((g) => g.calendarId && byGroup[g.name] === undefined) && (
            <Button
              size="sm"
              variant="outline-primary"
              onClick={() =>
                change({
                  byGroup: {
                    ...Object.fromEntries(groups.filter((g) => g.calendarId).map((g) => [g.name, g.calendarId])),
                    ...byGroup,
                  },
                })
              }
            >
              {t('bring.takeLike', {
                what: groups
                  .filter((g) => g.calendarId)
                  .map((g) => `${g.name} → ${calendars.find((c) => c.id === g.calendarId)?.title ?? ''}`)
                  .join(', '),
              })}
            </Button>
          )}
          {groups.map((group) => (
            <label key={group.name}>
              <span>
                {group.name} <span className="quiet">{group.count}</span>
              </span>
              <Form.Select
                size="sm"
                aria-label={t('bring.groupInto', { group: group.name })}
                value={byGroup[group.name] === null ? 'leave' : (byGroup[group.name] ?? '')}
                onChange={(e) => {
                  const others = Object.fromEntries(Object.entries(byGroup).filter(([name]) => name !== group.name));
                  change({
                    byGroup:
                      e.target.value === ''
                        ? others
                        : { ...others, [group.name]: e.target.value === 'leave' ? null : e.target.value },
                  });
                }}
              >
                <option value="">{t('bring.asOthers')}</option>
                <option value="leave">{t('bring.leave')}</option>
                <CalendarOptions calendars={own} />
              </Form.Select>
            </label>
          ))}
        </fieldset>
      )}
      {file.columns && (
        <Columns
          // What was chosen last, also before its answer is there.
          columns={file.columns.map((c, i) => ({ ...c, meaning: choices.columns?.[i] ?? c.meaning }))}
          onChange={(columns) => change({ columns })}
        />
      )}
      {what.left.length > 0 && (
        <div className="notice" role="status">
          {t('bring.left')}{' '}
          {what.left.map((l) => t('bring.leftOne', { what: leftText(t, l.what), count: l.count })).join(', ')}
        </div>
      )}
      <p className="laid-counts" role="status">
        {what.counts.map((c) => t(`bring.count.${c.kind}`, { count: c.count })).join(' · ')}
      </p>
      <Rows
        rows={what.rows}
        more={what.more}
        leaves={leaves}
        calendars={calendars}
        isFresh={!look.isPlaceholderData}
        onToggle={toggle}
      />
      {what.counts.some((c) => c.kind === 'gone') && (
        <Form.Check
          id="bring-lets-go"
          label={t('bring.letsGo')}
          checked={choices.letsGo}
          onChange={(e) => change({ letsGo: e.target.checked })}
        />
      )}
      {look.error && <Told problem={asProblem(look.error)} />}
      {problem && <Told problem={problem} />}
      <div className="laid-foot">
        <Button type="submit" disabled={!isReady}>
          {t('bring.do', { count: coming })}
        </Button>
        <Button
          variant="outline-primary"
          disabled={isBusy}
          onClick={() => {
            void api.clearBringing(id).catch(() => undefined);
            onClose();
          }}
        >
          {t('bring.giveUp')}
        </Button>
        <span className="quiet">{t('bring.nothingYet')}</span>
      </div>
    </Form>
  );
};

/** What was left of a file, in words; components of calendar files have names of their own. */
const leftText = (t: ReturnType<typeof useTexts>['t'], what: string): string => {
  const kind = what.startsWith('row ')
    ? 'row'
    : what.startsWith('change ')
      ? 'change'
      : what === 'line'
        ? 'line'
        : what.endsWith('without a readable date')
          ? 'undated'
          : null;
  return kind ? t(`bring.leftWhat.${kind}`) : what;
};

const CalendarOptions = ({ calendars }: { calendars: Calendar[] }) =>
  calendars.map((c) => (
    <option key={c.id} value={c.id}>
      {c.title}
    </option>
  ));

/** A bound that may be none. */
const Bound = ({
  label,
  value,
  near,
  onChange,
}: {
  label: string;
  value: string | null | undefined;
  near: string;
  onChange: (day: string | null) => void;
}) => {
  const { t } = useTexts();
  return value ? (
    <span className="bound">
      <DateField label={label} value={value} onChange={onChange} />
      <Button variant="link" size="sm" aria-label={t('bring.anyDay', { bound: label })} onClick={() => onChange(null)}>
        ×
      </Button>
    </span>
  ) : (
    <Button variant="outline-primary" size="sm" onClick={() => onChange(near)}>
      {t('bring.any')}
    </Button>
  );
};

/** What each column of a table says; every guess can be said otherwise. */
const Columns = ({
  columns,
  onChange,
}: {
  columns: NonNullable<LaidOut['columns']>;
  onChange: (meanings: TableColumn[]) => void;
}) => {
  const { t } = useTexts();
  return (
    <details open={!columns.some((c) => c.meaning === 'title') || !columns.some((c) => c.meaning === 'date')}>
      <summary>{t('bring.columns')}</summary>
      <fieldset className="laid-columns">
        {columns.map((column, i) => (
          <label key={`${column.header} ${i}`}>
            <strong>{column.header}</strong>
            <span className="quiet">{column.samples.slice(0, 2).join(' · ')}</span>
            <Form.Select
              size="sm"
              aria-label={t('bring.columnIs', { column: column.header })}
              value={column.meaning}
              onChange={(e) =>
                onChange(columns.map((c, at) => (at === i ? (e.target.value as TableColumn) : c.meaning)))
              }
            >
              {MEANINGS.map((meaning) => (
                <option key={meaning} value={meaning}>
                  {t(`bring.column.${meaning}`)}
                </option>
              ))}
            </Form.Select>
          </label>
        ))}
      </fieldset>
    </details>
  );
};

interface RowsProps {
  rows: BringingRow[];
  more: number;
  leaves: Set<string>;
  calendars: Calendar[];
  isFresh: boolean;
  onToggle: (key: string) => void;
}

/** Event by event what would become of it. */
const Rows = ({ rows, more, leaves, calendars, isFresh, onToggle }: RowsProps) => {
  const { t, language } = useTexts();
  const when = (row: BringingRow) =>
    [
      formatDay(dayOf(row.start), language, { weekday: 'short', day: 'numeric', month: 'short', year: 'numeric' }),
      !row.allDay && clockText(row.start, language),
    ]
      .filter(Boolean)
      .join(', ');
  return (
    <div className="laid-scroll">
      <table className={isFresh ? '' : 'is-coming'}>
        <caption className="visually-hidden">{t('bring.table')}</caption>
        <thead>
          <tr>
            <th>{t('bring.take')}</th>
            <th>{t('bring.becomes')}</th>
            <th>{t('bring.when')}</th>
            <th>{t('bring.what')}</th>
            <th>{t('bring.where')}</th>
            <th>{t('bring.said')}</th>
          </tr>
        </thead>
        <tbody>
          {rows.map((row) => {
            const said = [
              ...row.notes.map((n) => t(`note.${n.code}`, { defaultValue: n.message })),
              row.closure && t('bring.onClosure', { closure: row.closure }),
              row.clashes > 0 && t('bring.clashes', { count: row.clashes }),
              ...row.own.map((part) => t('bring.own', { part: t(`bring.part.${part.replace('facts.', '')}`, part) })),
            ].filter(Boolean);
            return (
              <tr key={row.key} className={`is-${row.kind}`}>
                <td>
                  <Form.Check
                    id={`take-${row.key}`}
                    aria-label={t('bring.takeThis', { title: row.title })}
                    checked={
                      !leaves.has(row.key) && row.kind !== 'left' && row.kind !== 'unfit' && row.kind !== 'outside'
                    }
                    disabled={
                      row.kind === 'unfit' || row.kind === 'outside' || (row.kind === 'left' && !leaves.has(row.key))
                    }
                    onChange={() => onToggle(row.key)}
                  />
                </td>
                <td>
                  {t(row.kind === 'left' && !leaves.has(row.key) ? 'bring.noCalendar' : `bring.kind.${row.kind}`)}
                </td>
                <td>
                  {when(row)}
                  {row.repeats && <span className="quiet"> {t('bring.dates', { count: row.dates })}</span>}
                </td>
                <td>
                  <strong>{row.title}</strong>
                  {row.place && <span className="quiet"> {row.place}</span>}
                </td>
                <td>{calendars.find((c) => c.id === row.calendarId)?.title ?? '–'}</td>
                <td>
                  {said.length > 0 && (
                    <ul>
                      {said.map((line, i) => (
                        <li key={i}>{line}</li>
                      ))}
                    </ul>
                  )}
                </td>
              </tr>
            );
          })}
        </tbody>
      </table>
      {more > 0 && <p className="quiet">{t('bring.more', { count: more })}</p>}
    </div>
  );
};
