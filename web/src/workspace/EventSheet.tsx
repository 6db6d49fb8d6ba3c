import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { useState, type FormEvent } from 'react';
import { Button, ButtonGroup } from 'react-bootstrap';
import {
  api,
  asProblem,
  type ApiProblem,
  type Calendar,
  type DateVerb,
  type EditInput,
  type EditScope,
  type EventData,
  type Occurrence,
} from '../shared/api/client';
import { DateField } from '../shared/DateField';
import { addDays, clockText, dayOf, formatDay, longDay, shortDay, type Day } from '../shared/dates';
import { problemText, useTexts } from '../shared/i18n';
import { useDebounced } from '../shared/useDebounced';
import { inputOf, useActions } from './actions';
import { inputOfDraft, timingOf, type EventDraft } from './draft';
import { EditPlan, type Choices } from './EditPlan';
import { EventFields } from './EventFields';
import { carryOver, draftFor, SCOPES } from './scopes';
import { Sheet, SheetRow } from './Sheet';

interface NewProps {
  draft: EventDraft;
  calendars: Calendar[];
  onClose: () => void;
}

/** A new event with all its fields. */
export const NewEventSheet = ({ draft: first, calendars, onClose }: NewProps) => {
  const { t } = useTexts();
  const actions = useActions();
  const [draft, setDraft] = useState(first);
  const [problem, setProblem] = useState<ApiProblem | null>(null);
  const calendar = calendars.find((c) => c.id === draft.calendarId);

  const submit = async (e: FormEvent) => {
    e.preventDefault();
    try {
      await actions.addEvent(inputOfDraft(draft, null));
      onClose();
    } catch (error) {
      setProblem(asProblem(error));
    }
  };
  return (
    <Sheet label={t('sheet.newEvent')} head={calendar?.title} mark={calendar?.mark ?? null} onClose={onClose}>
      <form onSubmit={(e) => void submit(e)} noValidate>
        <EventFields
          draft={draft}
          onDraft={setDraft}
          problem={problem}
          calendars={calendars}
          dates={<DraftDates draft={draft} event={null} around={null} />}
          autoFocus
        />
        {problem && !problem.field && <Told problem={problem} />}
        <div className="sheet-foot">
          <Button type="submit">{t('sheet.add')}</Button>
          <Button variant="outline-primary" onClick={onClose}>
            {t('cancel')}
          </Button>
        </div>
      </form>
    </Sheet>
  );
};

interface SavedProps {
  occurrence: Occurrence;
  calendars: Calendar[];
  onClose: () => void;
  onDate: (occurrence: Occurrence) => void;
}

/** An event of the board. */
export const SavedEventSheet = ({ occurrence, calendars, onClose, onDate }: SavedProps) => {
  const { t } = useTexts();
  const event = useQuery({ queryKey: ['event', occurrence.eventId], queryFn: () => api.event(occurrence.eventId) });
  const calendar = calendars.find((c) => c.id === (event.data?.calendarId ?? occurrence.calendarId));
  return (
    <Sheet label={occurrence.title} head={calendar?.title} mark={calendar?.mark ?? null} onClose={onClose}>
      {event.error && <Told problem={asProblem(event.error)} />}
      {event.data?.inBin && <p className="notice">{t('sheet.inBin')}</p>}
      {event.data && !event.data.inBin && (
        <EventEditor
          key={occurrence.date}
          event={event.data}
          occurrence={occurrence}
          calendars={calendars}
          onClose={onClose}
          onDate={onDate}
        />
      )}
    </Sheet>
  );
};

const same = (a: EventDraft, b: EventDraft): boolean => JSON.stringify(a) === JSON.stringify(b);

const EventEditor = ({ event, occurrence, calendars, onClose, onDate }: SavedProps & { event: EventData }) => {
  const { t } = useTexts();
  const actions = useActions();
  const [scope, setScope] = useState<EditScope>(event.rule ? 'thisDate' : 'everyDate');
  // What the fields were filled from; a newer version does not touch what is being typed.
  const [base, setBase] = useState(event);
  const blank = draftFor(base, occurrence, scope);
  const [draft, setDraft] = useState(blank);
  const [choices, setChoices] = useState<Choices>({});
  const [decided, setDecided] = useState(true);
  const [problem, setProblem] = useState<ApiProblem | null>(null);
  const [busy, setBusy] = useState(false);
  const dirty = !same(draft, blank);
  if (!dirty && event.version !== base.version) {
    setBase(event);
    setDraft(draftFor(event, occurrence, scope));
  }
  const calendar = calendars.find((c) => c.id === draft.calendarId);
  const change = base.changes.find((c) => c.date === occurrence.date);
  const isSeries = base.rule !== null;

  const run = async (work: () => Promise<unknown>) => {
    setBusy(true);
    setProblem(null);
    try {
      await work();
    } catch (error) {
      setProblem(asProblem(error));
    } finally {
      setBusy(false);
    }
  };
  const edit = (before: EventData): EditInput => ({
    ...inputOfDraft(draft, before.version),
    scope,
    date: occurrence.date,
    choices: Object.entries(choices).map(([date, choice]) => ({ date, choice })),
  });
  const save = (before: EventData) =>
    run(async () => {
      const { event: saved, added } = await actions.editEvent(before, edit(before));
      setChoices({});
      if (added.length > 0 || (scope !== 'thisDate' && isSeries)) {
        // The date it was opened for may be another event's, or be no more.
        onClose();
        return;
      }
      setBase(saved);
      setDraft(draftFor(saved, occurrence, scope));
    });
  const onDateDo = (verb: DateVerb, date: string, then?: () => void) =>
    void run(() => actions.onDate(event, verb, date).then(then));
  const pickScope = (next: EditScope) => {
    setScope(next);
    setChoices({});
    setDraft(carryOver(draft, blank, draftFor(base, occurrence, next)));
  };
  const stale = problem?.code === 'stale_version' ? (problem.current as EventData) : null;
  const saveText = {
    thisDate: 'sheet.saveThis',
    fromThisDate: 'sheet.saveRest',
    everyDate: 'sheet.saveSeries',
  } as const;

  return (
    <form
      noValidate
      onSubmit={(e) => {
        e.preventDefault();
        void save(base);
      }}
    >
      {isSeries && (
        <ButtonGroup size="sm" className="scopes" aria-label={t('scope.label')}>
          {SCOPES.map((s) => (
            <Button
              key={s}
              variant="outline-primary"
              active={scope === s}
              aria-pressed={scope === s}
              onClick={() => pickScope(s)}
            >
              {t(`scope.${s}`)}
            </Button>
          ))}
        </ButtonGroup>
      )}
      {change?.calledOff && <p className="notice notice-plain">{t('sheet.calledOff')}</p>}
      <EventFields
        draft={draft}
        onDraft={setDraft}
        problem={problem}
        calendars={calendars}
        occurrence={isSeries && scope === 'everyDate' ? occurrence : null}
        scope={isSeries ? scope : 'everyDate'}
        dates={
          <DraftDates
            draft={scope === 'everyDate' ? draft : draftFor(base, occurrence, 'everyDate')}
            event={base}
            around={dayOf(occurrence.date)}
            chosen={occurrence.date}
            // What is being typed stays with its date until it is saved or put back.
            onPick={
              dirty
                ? undefined
                : (start, skipped) => {
                    if (skipped) onDateDo('put-back', start);
                    else onDate({ ...occurrence, date: start });
                  }
            }
            onAdd={dirty ? undefined : (start) => onDateDo('add-date', start)}
          />
        }
      />
      {calendar && <WhoSees draft={draft} calendar={calendar} />}
      {isSeries && dirty && scope !== 'thisDate' && (
        <EditPlan id={event.id} input={edit(base)} choices={choices} onChoices={setChoices} onDecided={setDecided} />
      )}
      {stale && (
        <div className="notice" role="alert">
          <p>{t('sheet.stale', { title: stale.title })}</p>
          <Button onClick={() => void save(stale)}>{t('sheet.keepMine')}</Button>{' '}
          <Button
            variant="outline-primary"
            onClick={() => {
              setBase(stale);
              setDraft(draftFor(stale, occurrence, scope));
              setProblem(null);
            }}
          >
            {t('sheet.takeTheirs')}
          </Button>
        </div>
      )}
      {problem && !stale && !problem.field && <Told problem={problem} />}
      <div className="sheet-foot">
        {dirty ? (
          <>
            <Button type="submit" disabled={busy || !decided}>
              {isSeries ? t(saveText[scope]) : t('sheet.save')}
            </Button>
            <Button
              variant="outline-primary"
              onClick={() => {
                setDraft(blank);
                setProblem(null);
              }}
            >
              {t('sheet.putBack')}
            </Button>
          </>
        ) : isSeries && scope === 'thisDate' ? (
          <DateButtons event={base} date={occurrence.date} busy={busy} onDo={onDateDo} onClose={onClose} />
        ) : isSeries && scope === 'fromThisDate' ? (
          <Button
            variant="outline-danger"
            disabled={busy}
            onClick={() =>
              void run(() =>
                actions
                  .editEvent(base, {
                    ...inputOf(base),
                    rule: base.rule && { ...base.rule, count: null, until: addDays(dayOf(occurrence.date), -1) },
                    scope: 'everyDate',
                  })
                  .then(onClose),
              )
            }
          >
            {t('sheet.endBefore')}
          </Button>
        ) : (
          <Button
            variant="outline-danger"
            disabled={busy}
            onClick={() => void run(() => actions.binEvent(event).then(onClose))}
          >
            {isSeries ? t('sheet.deleteSeries') : t('sheet.delete')}
          </Button>
        )}
      </div>
    </form>
  );
};

interface DateButtonsProps {
  event: EventData;
  date: string;
  busy: boolean;
  onDo: (verb: DateVerb, date: string, then?: () => void) => void;
  onClose: () => void;
}

/** What can be done to one date. */
const DateButtons = ({ event, date, busy, onDo, onClose }: DateButtonsProps) => {
  const { t } = useTexts();
  const change = event.changes.find((c) => c.date === date);
  const isExtra = event.extras.includes(date);
  const isChanged = change && (change.title ?? change.place ?? change.description ?? change.timing);
  return (
    <>
      <Button
        variant="outline-primary"
        disabled={busy}
        onClick={() => onDo(change?.calledOff ? 'call-on' : 'call-off', date)}
      >
        {change?.calledOff ? t('sheet.callOn') : t('sheet.callOff')}
      </Button>
      {isChanged && (
        <Button variant="outline-primary" disabled={busy} onClick={() => onDo('as-others', date, onClose)}>
          {t('sheet.asOthers')}
        </Button>
      )}
      <Button
        variant="outline-danger"
        disabled={busy}
        onClick={() => onDo(isExtra ? 'remove-date' : 'leave-out', date, onClose)}
      >
        {isExtra ? t('sheet.removeDate') : t('sheet.leaveOut')}
      </Button>
    </>
  );
};

const Told = ({ problem }: { problem: ApiProblem }) => {
  const { t } = useTexts();
  return (
    <p className="notice notice-danger" role="alert">
      {problemText(t, problem)}
    </p>
  );
};

interface DatesProps {
  draft: EventDraft;
  /** The series as it is saved, with what was done to single dates; null for a new one. */
  event: EventData | null;
  around: Day | null;
  chosen?: string;
  onPick?: (start: string, skipped: boolean) => void;
  onAdd?: (start: string) => void;
}

/** The dates the repeat makes, as chips; a left-out one is struck through and can be put back. */
const DraftDates = ({ draft, event, around, chosen, onPick, onAdd }: DatesProps) => {
  const { t, language } = useTexts();
  const [adding, setAdding] = useState<Day>(around ?? draft.firstDay);
  const skips = event?.skips ?? [];
  const extras = event?.extras ?? [];
  const request = useDebounced(
    JSON.stringify({
      calendarId: draft.calendarId,
      timing: timingOf(draft),
      rule: draft.rule,
      skips,
      extras,
      around,
      language,
    }),
    200,
  );
  const complete = draft.firstDay !== '' && draft.lastDay !== '' && draft.from !== '' && draft.to !== '';
  const dates = useQuery({
    queryKey: ['dates', request],
    queryFn: () => api.dates(JSON.parse(request) as Parameters<typeof api.dates>[0]),
    enabled: draft.rule !== null && draft.calendarId !== '' && complete,
    placeholderData: keepPreviousData,
    retry: false,
  });
  if (!draft.rule || !complete) return null;
  const data = dates.data;
  return (
    <SheetRow label={t('dates.label')}>
      {dates.error && <Told problem={asProblem(dates.error)} />}
      {!dates.error && data && (
        <>
          {data.moved && (
            <p className="notice notice-plain">{t('dates.moved', { date: longDay(dayOf(data.start), language) })}</p>
          )}
          <p className="rule-text rule-said">{data.sentence}</p>
          <p className="dates-sum">
            {data.total === null
              ? t('dates.endless')
              : t('dates.sum', {
                  count: data.total,
                  last: formatDay(data.last ?? '', language, { day: 'numeric', month: 'long', year: 'numeric' }),
                })}
          </p>
          <ul className="date-chips">
            {data.dates.map((date) => {
              const change = event?.changes.find((c) => c.date === date.start);
              const day = longDay(dayOf(date.start), language);
              const state = date.skipped
                ? 'skipped'
                : change?.calledOff
                  ? 'off'
                  : change
                    ? 'changed'
                    : extras.includes(date.start)
                      ? 'extra'
                      : null;
              return (
                <li key={date.start}>
                  <button
                    type="button"
                    className={`date-chip${state ? ` is-${state}` : ''}`}
                    aria-pressed={date.start === chosen}
                    disabled={!onPick}
                    title={date.skipped ? t('dates.putBack') : undefined}
                    aria-label={state ? t(`dates.${state}`, { date: day }) : day}
                    onClick={() => onPick?.(date.start, date.skipped)}
                  >
                    {shortDay(dayOf(date.start), language)}
                  </button>
                </li>
              );
            })}
          </ul>
          {onAdd && event && (
            <div className="add-date">
              <DateField label={t('dates.add')} value={adding} onChange={setAdding} />
              <Button
                variant="outline-primary"
                size="sm"
                disabled={!adding}
                onClick={() => onAdd(`${adding}T${event.timing.start.slice(11)}`)}
              >
                {t('dates.addButton')}
              </Button>
            </div>
          )}
        </>
      )}
    </SheetRow>
  );
};

/** What each audience gets of this event, as a sample. */
const WhoSees = ({ draft, calendar }: { draft: EventDraft; calendar: Calendar }) => {
  const { t, language } = useTexts();
  const time = draft.allDay
    ? t('allDay')
    : `${clockText(`${draft.firstDay}T${draft.from}`, language)}–${clockText(`${draft.lastDay}T${draft.to}`, language)}`;
  const sample = {
    nothing: t('reach.nothing'),
    timesOnly: time,
    headlines: [draft.title, time, draft.place].filter(Boolean).join(', '),
    everything: t('reach.everything'),
  };
  const { members, linkHolders, everyone } = calendar.reach;
  const rows = { team: 'everything', members, linkHolders, everyone } as const;
  return (
    <SheetRow label={t('sheet.who')}>
      <dl className="who-sees">
        {(Object.keys(rows) as (keyof typeof rows)[]).map((audience) => (
          <div key={audience}>
            <dt>{t(`audience.${audience}`)}</dt>
            <dd className={rows[audience] === 'nothing' ? 'quiet' : ''}>{sample[rows[audience]]}</dd>
          </div>
        ))}
      </dl>
    </SheetRow>
  );
};
