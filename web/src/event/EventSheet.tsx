import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { useCallback, useLayoutEffect, useRef, useState, type SubmitEvent } from 'react';
import Button from 'react-bootstrap/Button';
import ButtonGroup from 'react-bootstrap/ButtonGroup';
import { Link } from 'react-router';
import {
  api,
  asProblem,
  ApiProblem,
  type Calendar,
  type DateVerb,
  type EditInput,
  type EventData,
  type Fields,
  type Occurrence,
  type Shift,
} from '../shared/api/client';
import { addDays, clockText, dayOf, dayRangeText, shortDay, daysBetween } from '../shared/dates';
import { useTexts } from '../shared/i18n';
import { Told } from '../shared/parts/Told';
import { inputOf, useActions } from '../shared/data/actions';
import { ByHand } from './ByHand';
import { DraftClashes } from './DraftClashes';
import { DraftDates } from './fields/DraftDates';
import { draftOf, inputOfDraft, moveFirstDay, timingOf, type EventDraft } from './draft/draft';
import { EditPlan } from './EditPlan';
import { EventFields } from './fields/EventFields';
import { ComesFrom } from './ComesFrom';
import { EventRead } from './EventRead';
import { mayEdit, mayOffer, useAsked } from '../shared/data/rights';
import { ToKeepers } from './ToKeepers';
import { useProposalsOf } from '../shared/data/useProposals';
import { History } from './History';
import { typedOver, type Choices, type Part, type Typed } from './draft/editing';
import { useEditing } from './draft/useEditing';
import {
  begunEvents,
  begunFrom,
  fieldsAsked,
  forgetBegun,
  forgetDraft,
  keepDraftFor,
  useKeepBegun,
  useKeepDraft,
  type Begun,
} from './draft/keptDraft';
import { dateOf } from './dateOf';
import { occurrenceKey } from '../shared/occurrences';
import { Sheet } from '../shared/parts/Sheet';
import { fieldText, useNames } from './differences';
import { KeepAsTemplate, StartFrom } from './TemplateTools';
import { WhoSees } from './WhoSees';
import './event.scss';

/** What is proposed where it may not be done. */
const STEPS = {
  'leave-out': 'leaveOut',
  'put-back': 'putBack',
  'call-off': 'callOff',
  'call-on': 'callOn',
  'as-others': 'asOthers',
  'add-date': 'addDate',
  'remove-date': 'removeDate',
} as const;

const SCOPES = ['thisDate', 'fromThisDate', 'everyDate'] as const;

const same = (a: EventDraft, b: EventDraft): boolean => JSON.stringify(a) === JSON.stringify(b);

interface NewProps {
  draft: EventDraft;
  calendars: Calendar[];
  onClose: () => void;
  /** Something was typed while it was added: that is changed in the sheet of the event that is there now. */
  onGoOn: (occurrence: Occurrence) => void;
}

/** A new event with all its fields. */
export const NewEventSheet = ({ draft: first, calendars, onClose, onGoOn }: NewProps) => {
  const { t } = useTexts();
  const actions = useActions();
  const [{ blank, draft }, setBegun] = useState<Begun>(() => begunFrom(first) ?? { blank: first, draft: first });
  const setDraft = useCallback((next: Typed) => setBegun((now) => ({ ...now, draft: typedOver(now.draft, next) })), []);
  useKeepBegun({ blank, draft });
  // Begun before and left: offered, never put in the place of what is typed.
  const [others, setOthers] = useState(() => begunEvents().filter((b) => !same(b.blank, first)));
  const [problem, setProblem] = useState<ApiProblem | null>(null);
  const [remark, setRemark] = useState('');
  const [isBusy, setBusy] = useState(false);
  const calendar = calendars.find((c) => c.id === draft.calendarId);
  const asked = useAsked(draft, null);
  const typed = useRef(draft);
  useLayoutEffect(() => {
    typed.current = draft;
  });

  const leave = () => {
    forgetBegun(blank);
    onClose();
  };
  const submit = async (e: SubmitEvent) => {
    e.preventDefault();
    // No calendar is ever assumed.
    if (!calendar) {
      setProblem(new ApiProblem(422, 'calendar_missing', '', 'calendarId'));
      return;
    }
    setBusy(true);
    try {
      const added = await actions.addEvent(inputOfDraft(draft, null), remark);
      if (!added || same(typed.current, draft)) {
        leave();
        return;
      }
      const occurrence = dateOf(added, added.first ?? added.timing.start);
      keepDraftFor(occurrenceKey(occurrence), {
        scope: 'everyDate',
        blank: draft,
        draft: typed.current,
        shift: null,
      });
      forgetBegun(blank);
      onGoOn(occurrence);
    } catch (error) {
      setProblem(asProblem(error));
      setBusy(false);
    }
  };
  return (
    <Sheet label={t('sheet.newEvent')} head={calendar?.title} mark={calendar?.mark ?? null} onClose={onClose}>
      <form onSubmit={(e) => void submit(e)} noValidate>
        <OthersBegun
          begun={others}
          onTake={(taken) => {
            setOthers([...others.filter((b) => b !== taken), ...(same(draft, blank) ? [] : [{ blank, draft }])]);
            setBegun(taken);
          }}
          onDrop={(dropped) => {
            forgetBegun(dropped.blank);
            setOthers(others.filter((b) => b !== dropped));
          }}
        />
        <StartFrom draft={draft} onDraft={setDraft} />
        <EventFields
          draft={draft}
          onDraft={setDraft}
          problem={problem}
          calendars={calendars}
          dates={<DraftDates draft={draft} event={null} around={null} />}
          clashes={<DraftClashes input={inputOfDraft(draft, null)} id={null} calendars={calendars} />}
          autoFocus
        />
        {calendar && (
          <WhoSees
            draft={draft}
            calendar={calendar}
            onReach={(reach) => setDraft({ ...draft, facts: { ...draft.facts, reach } })}
          />
        )}
        {asked.length > 0 && <ToKeepers asked={asked} calendars={calendars} remark={remark} onRemark={setRemark} />}
        {problem && !problem.field && <Told problem={problem} />}
        <div className="sheet-foot">
          <Button type="submit" disabled={isBusy}>
            {t(asked.length > 0 ? 'proposal.propose' : 'sheet.add')}
          </Button>
          <Button variant="outline-primary" onClick={leave}>
            {t('cancel')}
          </Button>
        </div>
      </form>
    </Sheet>
  );
};

interface OthersProps {
  begun: Begun[];
  onTake: (begun: Begun) => void;
  onDrop: (begun: Begun) => void;
}

/** Events that were begun and left without being added. */
const OthersBegun = ({ begun, onTake, onDrop }: OthersProps) => {
  const { t, language } = useTexts();
  return begun.map((other) => {
    const name = t('sheet.begunName', {
      title: other.draft.title || t('sheet.untitled'),
      day: shortDay(other.draft.firstDay, language),
    });
    return (
      <p key={JSON.stringify(other.blank)} className="notice notice-plain">
        {t('sheet.begun', { name })}{' '}
        <Button variant="link" className="p-0" onClick={() => onTake(other)}>
          {t('sheet.goOn')}
        </Button>{' '}
        <Button variant="link" className="p-0" onClick={() => onDrop(other)}>
          {t('sheet.letGo')}
        </Button>
      </p>
    );
  });
};

/** A date that happens once, where its event lies now: it may have been moved since it was opened. */
const movedTo = (o: Occurrence, { start, end }: EventData['timing']): Occurrence => ({
  ...o,
  date: start,
  start,
  end,
  firstDay: addDays(o.firstDay, daysBetween(dayOf(o.date), dayOf(start))),
  lastDay: addDays(o.lastDay, daysBetween(dayOf(o.date), dayOf(start))),
});

interface SavedProps {
  occurrence: Occurrence;
  /** How far it was moved on the board, still to be saved. */
  shift: Shift | null;
  calendars: Calendar[];
  onClose: () => void;
  onDate: (occurrence: Occurrence) => void;
  /** Makes another event like this one: where, is chosen then. */
  onCopy: (occurrence: Occurrence) => void;
}

/** An event of the board. */
export const SavedEventSheet = ({ occurrence, shift, calendars, onClose, onDate, onCopy }: SavedProps) => {
  const { t } = useTexts();
  const actions = useActions();
  const isRead = occurrence.detail === 'everything' || occurrence.detail === 'headlines';
  const event = useQuery({
    queryKey: ['event', occurrence.eventId],
    queryFn: () => api.event(occurrence.eventId),
    enabled: isRead,
  });
  // What is not to be read any more is not shown from before either.
  const isAway = event.error !== null && asProblem(event.error).status === 404;
  const data = isAway ? undefined : event.data;
  const calendar = calendars.find((c) => c.id === (data?.calendarId ?? occurrence.calendarId));
  const proposals = useProposalsOf(occurrence.eventId);
  // What somebody has proposed already is where their next change starts from.
  const own = proposals.find(
    (p) => p.isMine && p.before && !p.isOvertaken && p.asks.every((a) => a.answer !== 'approved'),
  );
  const [proposing, setProposing] = useState(false);
  const mayPropose = !mayEdit(calendar) && mayOffer(calendar) && occurrence.detail === 'everything';
  return (
    <Sheet
      label={occurrence.title || t('entry.taken')}
      head={calendar?.title}
      mark={calendar?.mark ?? null}
      onClose={onClose}
    >
      {event.error &&
        (isAway && !calendar ? (
          <p className="notice" role="alert">
            {t('sheet.calendarGone')}
          </p>
        ) : (
          <Told problem={asProblem(event.error)} />
        ))}
      {data?.inBin && (
        <div className="notice">
          <p>{t(mayEdit(calendar) ? 'sheet.inBinKept' : 'sheet.inBin', { title: data.title })}</p>
          {mayEdit(calendar) && (
            <Button onClick={() => void actions.restoreEvent(data.id, data.title)}>{t('sheet.takeBack')}</Button>
          )}
        </div>
      )}
      {proposals.map((p) => (
        <p key={p.id} className="notice notice-plain">
          {p.isMine
            ? t('proposal.youProposed')
            : t('proposal.somebodyProposed', { person: p.person ?? t('history.nobody') })}{' '}
          <Link to={`/proposals?at=${p.id}`}>{t('proposal.see')}</Link>
        </p>
      ))}
      {!mayEdit(calendar) && !proposing && (data ?? !isRead) && (
        <>
          <EventRead occurrence={occurrence} calendar={calendar} event={data ?? null} />
          {data && calendar?.isFollowed && <ComesFrom eventId={data.id} version={data.version} />}
          {data && (
            <div className="sheet-foot">
              {mayPropose && (
                <Button variant="outline-primary" onClick={() => setProposing(true)}>
                  {t('proposal.proposeChange')}
                </Button>
              )}
              {occurrence.detail === 'everything' && calendars.some(mayOffer) && (
                <Button variant="outline-primary" onClick={() => onCopy(occurrence)}>
                  {t('sheet.copy')}
                </Button>
              )}
            </div>
          )}
        </>
      )}
      {data && !data.inBin && (mayEdit(calendar) || (mayPropose && proposing)) && (
        <EventEditor
          key={occurrence.date}
          event={data}
          proposalId={own && !mayEdit(calendar) ? own.id : null}
          occurrence={occurrence}
          shift={shift}
          calendars={calendars}
          onClose={onClose}
          onDate={onDate}
          onCopy={onCopy}
        />
      )}
    </Sheet>
  );
};

type EditorProps = SavedProps & { event: EventData; proposalId: string | null };

/** An event's fields, once it is known what they hold: with what was typed before, and how far it was moved. */
const EventEditor = (props: EditorProps) => {
  const { event, occurrence, shift, proposalId } = props;
  const slot = occurrenceKey(occurrence);
  const begun = useQuery({
    queryKey: ['fields', slot, proposalId],
    queryFn: async () => ({
      shift,
      fields: await api.fields(event.id, fieldsAsked(slot, occurrence.date, shift, proposalId)),
    }),
    placeholderData: keepPreviousData,
    // Only where editing begins: what comes later is taken in under what is typed.
    staleTime: 'static',
    gcTime: 0,
  });
  if (begun.error) return <Told problem={asProblem(begun.error)} />;
  return begun.data ? <Editor {...props} begun={begun.data} /> : null;
};

const Editor = ({
  event,
  occurrence,
  shift,
  proposalId,
  begun,
  calendars,
  onClose,
  onDate,
  onCopy,
}: EditorProps & { begun: { fields: Fields; shift: Shift | null } }) => {
  const { t, language } = useTexts();
  const actions = useActions();
  const names = useNames(calendars);
  const slot = occurrenceKey(occurrence);
  const { state, dispatch, fill, isSettled, settled } = useEditing({
    event,
    date: occurrence.date,
    shift,
    proposalId,
    begun,
  });
  const { base, scope, meant, blank, draft, choices, conflicts, remark, problem, isBusy } = state;
  const dirty = !same(draft, blank);
  useKeepDraft(slot, dirty, { scope, blank, draft, shift: state.shift });
  const type = useCallback((next: Typed) => dispatch({ step: 'typed', draft: next }), [dispatch]);
  const choose = useCallback((next: Choices) => dispatch({ step: 'chose', choices: next }), [dispatch]);
  const decide = useCallback((isDecided: boolean) => dispatch({ step: 'decided', isDecided }), [dispatch]);
  const say = useCallback((next: string) => dispatch({ step: 'remarked', remark: next }), [dispatch]);
  const calendar = calendars.find((c) => c.id === draft.calendarId);
  const change = base.changes.find((c) => c.date === occurrence.date);
  const isSeries = base.rule !== null;
  const keepsHome = mayEdit(calendars.find((c) => c.id === base.calendarId));
  const asked = useAsked(draft, event.id);

  const run = async (work: () => Promise<unknown>) => {
    dispatch({ step: 'sent' });
    try {
      await work();
      dispatch({ step: 'answered' });
    } catch (error) {
      const refusal = asProblem(error);
      dispatch({ step: 'refused', problem: refusal });
      if (refusal.code === 'stale_version') await fill();
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
      if (asked.length > 0) {
        await actions.offerChange(before, edit(before), remark);
        forgetDraft(slot);
        onClose();
        return;
      }
      const { event: saved, added } = await actions.editEvent(before, edit(before));
      if (added.length > 0 || (scope !== 'thisDate' && isSeries)) {
        // The date it was opened for may be another event's, or be no more.
        forgetDraft(slot);
        onClose();
        return;
      }
      dispatch({ step: 'saved', event: saved });
      await fill(scope, draft);
      if (shift) onDate(occurrence);
    });
  const onDateDo = (verb: DateVerb, date: string, then?: () => void) =>
    void run(() =>
      keepsHome
        ? actions.onDate(event, verb, date).then(then)
        : actions.offerStep(event, STEPS[verb], date, remark).then(onClose),
    );
  const stale = problem?.code === 'stale_version';
  const shown = (part: Part): string => {
    if (part === 'when') {
      const { start, end } = timingOf(blank);
      const days = dayRangeText(blank.firstDay, blank.lastDay, language);
      const when = blank.allDay ? days : `${days} ${clockText(start, language)}–${clockText(end, language)}`;
      return JSON.stringify(blank.rule) === JSON.stringify(draft.rule) ? when : t('sheet.otherRepeat', { when });
    }
    const value: unknown = part.startsWith('facts.')
      ? (blank.facts as Record<string, unknown>)[part.slice('facts.'.length)]
      : blank[part as keyof EventDraft];
    return fieldText(part.replace('facts.', ''), value, names) || t('sheet.nothing');
  };
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
        // What the fields are being filled with goes along.
        const form = e.currentTarget;
        if (isSettled()) void save(base);
        else void settled().then((isFilled) => isFilled && form.requestSubmit());
      }}
    >
      {isSeries && (
        <ButtonGroup size="sm" className="scopes" aria-label={t('scope.label')}>
          {SCOPES.map((s) => (
            <Button
              key={s}
              variant="outline-primary"
              active={meant === s}
              aria-pressed={meant === s}
              disabled={isBusy}
              onClick={() => void fill(s)}
            >
              {t(`scope.${s}`)}
            </Button>
          ))}
        </ButtonGroup>
      )}
      {change?.calledOff && <p className="notice notice-plain">{t('sheet.calledOff')}</p>}
      <div className="sheet-moves">
        {(!isSeries || scope === 'thisDate') &&
          ([-1, 1] as const).map((days) => (
            <Button
              key={days}
              size="sm"
              variant="link"
              className="p-0"
              onClick={() => type((now) => moveFirstDay(now, addDays(now.firstDay, days)))}
            >
              {t(days < 0 ? 'sheet.dayEarlier' : 'sheet.dayLater')}
            </Button>
          ))}
        {/* What is typed and not saved yet would not be in the copy. */}
        <Button
          size="sm"
          variant="link"
          className="p-0"
          disabled={dirty}
          onClick={() => onCopy(isSeries ? occurrence : movedTo(occurrence, base.timing))}
        >
          {t('sheet.copy')}
        </Button>
      </div>
      <EventFields
        draft={draft}
        onDraft={type}
        eventId={event.id}
        mayMove={keepsHome}
        problem={problem}
        calendars={calendars}
        occurrence={isSeries && scope === 'everyDate' ? occurrence : null}
        scope={isSeries ? scope : 'everyDate'}
        clashes={
          <DraftClashes
            input={inputOfDraft(scope === 'thisDate' ? { ...draft, rule: null, follows: null } : draft, null)}
            id={event.id}
            calendars={calendars}
          />
        }
        dates={
          <DraftDates
            draft={scope === 'everyDate' ? draft : draftOf(inputOf(base))}
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
      {isSeries && <ByHand event={event} busy={isBusy || dirty} onDo={onDateDo} />}
      {calendar && (
        <WhoSees
          draft={draft}
          calendar={calendar}
          onReach={
            isSeries && scope === 'thisDate' ? null : (reach) => type({ ...draft, facts: { ...draft.facts, reach } })
          }
        />
      )}
      {isSeries && dirty && (
        <EditPlan id={event.id} input={edit(base)} choices={choices} onChoices={choose} onDecided={decide} />
      )}
      {keepsHome && <ComesFrom eventId={event.id} version={event.version} />}
      {keepsHome && (
        <>
          <KeepAsTemplate draft={scope === 'everyDate' ? draft : draftOf(inputOf(base))} />
          <History event={event} calendars={calendars} busy={isBusy || dirty} />
        </>
      )}
      {(asked.length > 0 || !keepsHome) && (
        <ToKeepers asked={asked} calendars={calendars} remark={remark} onRemark={say} />
      )}
      {(conflicts.length > 0 || stale) && (
        <div className="notice" role="alert">
          <p>{conflicts.length > 0 ? t('sheet.both') : t('meanwhile')}</p>
          <ul className="conflicts">
            {conflicts.map((part) => (
              <li key={part}>
                <strong>{t(`sheet.fieldName.${part}`)}</strong>
                <span>{t('sheet.theirs', { value: shown(part) })}</span>
                <Button
                  size="sm"
                  variant="outline-primary"
                  onClick={() => dispatch({ step: 'settled', part, isTheirs: true })}
                >
                  {t('sheet.takeTheirs')}
                </Button>
                <Button
                  size="sm"
                  variant="outline-primary"
                  onClick={() => dispatch({ step: 'settled', part, isTheirs: false })}
                >
                  {t('sheet.keepMine')}
                </Button>
              </li>
            ))}
          </ul>
        </div>
      )}
      {problem && !stale && !problem.field && <Told problem={problem} />}
      <div className="sheet-foot">
        {dirty ? (
          <>
            <Button type="submit" disabled={isBusy || !state.isDecided || conflicts.length > 0}>
              {asked.length > 0 ? t('proposal.propose') : isSeries ? t(saveText[meant]) : t('sheet.save')}
            </Button>
            <Button
              variant="outline-primary"
              onClick={() => {
                dispatch({ step: 'putBack' });
                if (shift) onDate(occurrence);
              }}
            >
              {t('sheet.putBack')}
            </Button>
          </>
        ) : isSeries && scope === 'thisDate' ? (
          <DateButtons event={base} date={occurrence.date} busy={isBusy} onDo={onDateDo} onClose={onClose} />
        ) : isSeries && scope === 'fromThisDate' ? (
          <Button
            variant="outline-danger"
            disabled={isBusy}
            onClick={() =>
              void run(() => {
                const ended: EditInput = {
                  ...inputOf(base),
                  rule: base.rule && { ...base.rule, count: null, until: addDays(dayOf(occurrence.date), -1) },
                  scope: 'everyDate',
                };
                return (keepsHome ? actions.editEvent(base, ended) : actions.offerChange(base, ended, remark)).then(
                  onClose,
                );
              })
            }
          >
            {t('sheet.endBefore')}
          </Button>
        ) : (
          <>
            {!isSeries && (
              <Button
                variant="outline-primary"
                disabled={isBusy}
                onClick={() => onDateDo(change?.calledOff ? 'call-on' : 'call-off', occurrence.date)}
              >
                {change?.calledOff ? t('sheet.callOn') : t('sheet.callOff')}
              </Button>
            )}
            <Button
              variant="outline-danger"
              disabled={isBusy}
              onClick={() =>
                void run(() =>
                  (keepsHome ? actions.binEvent(event) : actions.offerStep(event, 'delete', null, remark)).then(
                    onClose,
                  ),
                )
              }
            >
              {isSeries ? t('sheet.deleteSeries') : t('sheet.delete')}
            </Button>
          </>
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
  const isChanged = change && (change.title ?? change.place ?? change.description ?? change.timing ?? change.facts);
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
