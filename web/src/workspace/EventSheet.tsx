import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { useState, type FormEvent } from 'react';
import { Button } from 'react-bootstrap';
import { api, asProblem, type ApiProblem, type Calendar, type EventData, type Occurrence } from '../shared/api/client';
import { clockText, dayOf, formatDay, longDay, shortDay, type Day } from '../shared/dates';
import { problemText, useTexts } from '../shared/i18n';
import { useDebounced } from '../shared/useDebounced';
import { inputOf, useActions } from './actions';
import { draftOf, inputOfDraft, timingOf, type EventDraft } from './draft';
import { EventFields } from './EventFields';
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
          dates={<DraftDates draft={draft} skips={[]} around={null} />}
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
  // What the fields were filled from; a newer version does not touch what is being typed.
  const [base, setBase] = useState(event);
  const [draft, setDraft] = useState(() => draftOf(inputOf(event)));
  const [problem, setProblem] = useState<ApiProblem | null>(null);
  const [busy, setBusy] = useState(false);
  const dirty = !same(draft, draftOf(inputOf(base)));
  if (!dirty && event.version !== base.version) {
    setBase(event);
    setDraft(draftOf(inputOf(event)));
  }
  const calendar = calendars.find((c) => c.id === draft.calendarId);

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
  const save = (before: EventData) =>
    run(async () => {
      const saved = await actions.changeEvent(before, inputOfDraft(draft, before.version));
      setBase(saved);
      setDraft(draftOf(inputOf(saved)));
    });
  const stale = problem?.code === 'stale_version' ? (problem.current as EventData) : null;

  return (
    <form
      noValidate
      onSubmit={(e) => {
        e.preventDefault();
        void save(base);
      }}
    >
      <EventFields
        draft={draft}
        onDraft={setDraft}
        problem={problem}
        calendars={calendars}
        occurrence={event.rule ? occurrence : null}
        dates={
          <DraftDates
            draft={draft}
            skips={event.skips}
            around={dayOf(occurrence.date)}
            chosen={occurrence.date}
            onPick={(start, skipped) => {
              if (skipped) void run(() => actions.putBack(event, start));
              else onDate({ ...occurrence, date: start });
            }}
          />
        }
      />
      {calendar && <WhoSees draft={draft} calendar={calendar} />}
      {stale && (
        <div className="notice" role="alert">
          <p>{t('sheet.stale', { title: stale.title })}</p>
          <Button onClick={() => void save(stale)}>{t('sheet.keepMine')}</Button>{' '}
          <Button
            variant="outline-primary"
            onClick={() => {
              setBase(stale);
              setDraft(draftOf(inputOf(stale)));
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
            <Button type="submit" disabled={busy}>
              {base.rule ? t('sheet.saveSeries') : t('sheet.save')}
            </Button>
            <Button
              variant="outline-primary"
              onClick={() => {
                setDraft(draftOf(inputOf(base)));
                setProblem(null);
              }}
            >
              {t('sheet.putBack')}
            </Button>
          </>
        ) : (
          <>
            {event.rule && (
              <Button
                variant="outline-primary"
                disabled={busy}
                onClick={() => void run(() => actions.leaveOut(event, occurrence.date).then(onClose))}
              >
                {t('sheet.leaveOut')}
              </Button>
            )}
            <Button
              variant="outline-danger"
              disabled={busy}
              onClick={() => void run(() => actions.binEvent(event).then(onClose))}
            >
              {event.rule ? t('sheet.deleteSeries') : t('sheet.delete')}
            </Button>
          </>
        )}
      </div>
    </form>
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
  skips: string[];
  around: Day | null;
  chosen?: string;
  onPick?: (start: string, skipped: boolean) => void;
}

/** The dates the repeat makes, as chips; a left-out one is struck through and can be put back. */
const DraftDates = ({ draft, skips, around, chosen, onPick }: DatesProps) => {
  const { t, language } = useTexts();
  const request = useDebounced(
    JSON.stringify({ calendarId: draft.calendarId, timing: timingOf(draft), rule: draft.rule, skips, around }),
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
          <p className="dates-sum">
            {data.total === null
              ? t('dates.endless')
              : t('dates.sum', {
                  count: data.total,
                  last: formatDay(data.last ?? '', language, { day: 'numeric', month: 'long', year: 'numeric' }),
                })}
          </p>
          <ul className="date-chips">
            {data.dates.map((date) => (
              <li key={date.start}>
                <button
                  type="button"
                  className={`date-chip${date.skipped ? ' is-skipped' : ''}`}
                  aria-pressed={date.start === chosen}
                  disabled={!onPick}
                  title={date.skipped ? t('dates.putBack') : undefined}
                  aria-label={
                    date.skipped
                      ? t('dates.skipped', { date: longDay(dayOf(date.start), language) })
                      : longDay(dayOf(date.start), language)
                  }
                  onClick={() => onPick?.(date.start, date.skipped)}
                >
                  {shortDay(dayOf(date.start), language)}
                </button>
              </li>
            ))}
          </ul>
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
