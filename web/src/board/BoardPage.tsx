import { keepPreviousData, noop, useQuery, useQueryClient } from '@tanstack/react-query';
import { useEffect, useEffectEvent, useState, type SubmitEvent } from 'react';
import Button from 'react-bootstrap/Button';
import ButtonGroup from 'react-bootstrap/ButtonGroup';
import Form from 'react-bootstrap/Form';
import { useSearchParams } from 'react-router';
import { api, asProblem, type Calendar, type Occurrence, type Session } from '../shared/api/client';
import { addDays, dayRangeText, firstOfWeek, zoneCity, type Day } from '../shared/dates';
import { problemText, useTexts } from '../shared/i18n';
import { CalendarSheet } from '../calendar/CalendarSheet';
import { CopySheet } from '../event/CopySheet';
import { setSight } from '../shared/data/sight';
import { NewEventSheet, SavedEventSheet } from '../event/EventSheet';
import { Lanes } from './views/Lanes';
import { dateOf } from '../event/dateOf';
import { isOnlyProposed, occurrenceKey } from '../shared/occurrences';
import { Month } from './views/Month';
import { PastedLines } from './entry/PastedLines';
import { HiddenCalendars } from './views/HiddenCalendars';
import { Hours } from './views/Hours';
import { useChosen } from './openSheet';
import { KeysPanel } from './KeysPanel';
import { List } from './views/List';
import { boardKey, useViewAs } from './viewAs';
import { ProposalSheet } from '../proposals/ProposalSheet';
import { usePeople } from '../shared/data/usePeople';
import { PlaceLanes } from './views/PlaceLanes';
import { PrintButton, PrintKey } from './Print';
import { arrange } from './arrangement';
import { useArrangement, useKeepBoard } from './useArrangement';
import { FORMS, MAX_DAYS, MONTH_DAYS, useBoardWindow, type BoardForm } from './window';
import { YearStrip } from './YearStrip';
import './board.scss';

/** A date no board shows, as of a series that is left out: its sheet is the way to mend it. */
const useUnshown = (wanted: string | null): Occurrence | undefined => {
  const [id, date] = (wanted ?? '').split('_');
  const event = useQuery({ queryKey: ['event', id], queryFn: () => api.event(id ?? ''), enabled: wanted !== null });
  if (wanted === null || !event.data || !date) return undefined;
  return dateOf(event.data, date);
};

export const BoardPage = ({ school }: { school: Session['school'] }) => {
  const { t, language } = useTexts();
  const [shown, change] = useBoardWindow(school.today);
  const { chosen, nth, choose, leadOn, close } = useChosen();
  const [made, setMade] = useState<{ id: string; key: string } | null>(null);
  const [params, setParams] = useSearchParams();
  const wanted = params.get('open');
  const to = addDays(shown.from, shown.form === 'month' ? MONTH_DAYS : shown.days);
  const look = useViewAs();
  const people = usePeople(look !== null);
  const board = useQuery({
    queryKey: [...boardKey(look), shown.from, to],
    queryFn: () => api.board(shown.from, to, look),
    placeholderData: keepPreviousData,
  });
  const data = board.data;
  // The weeks before and after are there already when somebody goes on.
  const queries = useQueryClient();
  const isLoaded = board.isSuccess && !board.isPlaceholderData;
  useEffect(() => {
    // A season more than anybody goes on to at once is fetched when it is wanted.
    if (!isLoaded || look || shown.form === 'month' || shown.days > 63) return;
    for (const by of [shown.days, -shown.days]) {
      const [first, last] = [addDays(shown.from, by), addDays(to, by)];
      queries.query({ queryKey: ['board', first, last], queryFn: () => api.board(first, last) }).catch(noop);
    }
  }, [isLoaded, look, queries, shown.form, shown.from, shown.days, to]);
  const [arrangement, arrangeAs] = useArrangement(data?.calendars ?? []);
  const keep = useKeepBoard();
  // On a phone what takes room is folded until it is wanted.
  const [isUnfolded, setUnfolded] = useState(false);
  const startOn = (day: Day) => (shown.form !== 'month' && shown.days < 5 ? day : firstOfWeek(day));
  const travel = (way: 1 | -1) =>
    change({ from: addDays(shown.from, way * (shown.form === 'month' ? MONTH_DAYS - 7 : shown.days)) });
  const pickForm = (form: BoardForm) => {
    keep({ form });
    change({ form, from: form === 'month' ? firstOfWeek(shown.from) : shown.from, days: null });
  };
  useEffect(() => {
    setSight({ from: shown.from, to });
    return () => setSight(null);
  }, [shown.from, to]);
  // What is hidden is hidden in every form.
  const seen = data ? arrange(data.calendars, arrangement).flatMap((g) => g.calendars) : [];

  // A hit of the search is opened as soon as its days are there; the address forgets it then.
  const shownHit =
    wanted && data ? data.occurrences.find((o) => occurrenceKey(o) === wanted.replace('_', ' ')) : undefined;
  const unshown = useUnshown(wanted && isLoaded && !shownHit ? wanted : null);
  const hit = shownHit ?? unshown;
  const openHit = useEffectEvent((occurrence: Occurrence) => {
    choose({ kind: 'event', occurrence });
    setParams(
      (old) => {
        const made = new URLSearchParams(old);
        made.delete('open');
        return made;
      },
      { replace: true },
    );
  });
  useEffect(() => {
    if (!hit) return;
    const frame = requestAnimationFrame(() => {
      openHit(hit);
    });
    return () => cancelAnimationFrame(frame);
  }, [hit]);

  // The sheet gives way to Escape unless something inside it uses the key.
  useEffect(() => {
    if (!chosen) return;
    const onKey = (e: KeyboardEvent) => {
      if (e.key === 'Escape' && !e.defaultPrevented) close();
    };
    addEventListener('keydown', onKey);
    return () => removeEventListener('keydown', onKey);
  }, [chosen, close]);

  const given = data && {
    data,
    calendars: seen,
    from: shown.from,
    days: shown.days,
    today: school.today,
    chosen,
    onChoose: choose,
  };
  const first = data?.days.find((day) => day.date >= shown.from && day.teachingWeek);
  const context = [
    first && t('plan.week', { week: first.teachingWeek, term: first.term?.toLocaleLowerCase() }),
    first?.weekLetter && t('plan.letter', { letter: first.weekLetter }),
    t('timesIn', { place: zoneCity(data?.zone ?? school.zone) }),
  ].filter(Boolean);
  const there = data?.calendars.find((c) => chosen?.kind === 'calendar' && c.id === chosen.id);
  // One that goes while its sheet is open stays there with what is typed.
  const [lastOpen, setLastOpen] = useState<Calendar | null>(null);
  if (there && there !== lastOpen) setLastOpen(there);
  const calendar = there ?? (chosen?.kind === 'calendar' && lastOpen?.id === chosen.id ? lastOpen : undefined);

  return (
    <main className={isUnfolded ? 'plan is-unfolded' : 'plan'}>
      <YearStrip
        from={shown.from}
        days={shown.form === 'month' ? MONTH_DAYS : shown.days}
        maxDays={shown.form === 'month' ? null : MAX_DAYS[shown.form]}
        today={school.today}
        onChange={change}
      />
      <div className="page-head">
        <div className="plan-title">
          <h1>{dayRangeText(shown.from, addDays(to, -1), language)}</h1>
          <p className="quiet">{context.join(' · ')}</p>
        </div>
        <ButtonGroup className="plan-travel">
          <Button variant="outline-primary" aria-label={t('plan.earlier')} onClick={() => travel(-1)}>
            ‹
          </Button>
          <Button variant="outline-primary" onClick={() => change({ from: startOn(school.today) })}>
            {t('today')}
          </Button>
          <Button variant="outline-primary" aria-label={t('plan.later')} onClick={() => travel(1)}>
            ›
          </Button>
        </ButtonGroup>
        <GoTo from={shown.from} onGo={(day) => change({ from: startOn(day) })} />
        <ButtonGroup aria-label={t('plan.form')}>
          {FORMS.map((form) => (
            <Button
              key={form}
              variant="outline-primary"
              active={shown.form === form}
              aria-pressed={shown.form === form}
              onClick={() => pickForm(form)}
            >
              {t(`plan.forms.${form}`)}
            </Button>
          ))}
        </ButtonGroup>
        {shown.form === 'lanes' && (
          <Button
            className="by-places"
            variant="outline-primary"
            aria-pressed={shown.by === 'places'}
            active={shown.by === 'places'}
            onClick={() => change({ by: shown.by === 'places' ? null : 'places' })}
          >
            {t('lanes.byPlaces')}
          </Button>
        )}
        <PrintButton form={shown.form} />
        <Button
          className="plan-unfold"
          variant="outline-primary"
          aria-expanded={isUnfolded}
          onClick={() => setUnfolded(!isUnfolded)}
        >
          {t(isUnfolded ? 'plan.fold' : 'plan.unfold')}
        </Button>
      </div>
      {data && shown.form !== 'lanes' && (
        <HiddenCalendars calendars={data.calendars} arrangement={arrangement} onArrange={arrangeAs} />
      )}
      {look && (
        <div className="looks-as" role="status">
          <span>
            {t('look.as', {
              who:
                look === 'members' || look === 'linkHolders' || look === 'everyone'
                  ? t(`look.${look}`)
                  : (people.data?.people.find((p) => p.id === look)?.name ?? '…'),
            })}
          </span>
          <Button
            size="sm"
            variant="outline-primary"
            onClick={() => {
              choose(null);
              setParams((old) => {
                const made = new URLSearchParams(old);
                made.delete('look');
                return made;
              });
            }}
          >
            {t('look.back')}
          </Button>
        </div>
      )}
      {board.error && !data && (
        <p className="notice notice-danger" role="alert">
          {problemText(t, asProblem(board.error))}
        </p>
      )}
      <div className={chosen ? 'plan-body with-sheet' : 'plan-body'}>
        {given && shown.form === 'lanes' && shown.by === 'calendars' && (
          <Lanes {...given} arrangement={arrangement} onArrange={arrangeAs} />
        )}
        {given && shown.form === 'lanes' && shown.by === 'places' && <PlaceLanes {...given} />}
        {given && shown.form === 'hours' && <Hours {...given} />}
        {given && shown.form === 'list' && <List {...given} onSpan={(days) => change({ days })} />}
        {given && shown.form === 'month' && <Month {...given} onTravel={(from) => change({ from })} />}
        {data && chosen?.kind === 'event' && chosen.occurrence.proposalId && isOnlyProposed(chosen.occurrence) && (
          <ProposalSheet
            key={chosen.occurrence.proposalId}
            id={chosen.occurrence.proposalId}
            calendars={data.calendars}
            onClose={close}
          />
        )}
        {data && chosen?.kind === 'event' && !isOnlyProposed(chosen.occurrence) && (
          <SavedEventSheet
            key={chosen.occurrence.eventId}
            occurrence={chosen.occurrence}
            shift={chosen.shift ?? null}
            calendars={data.calendars}
            onClose={close}
            onDate={(occurrence) => leadOn({ kind: 'event', occurrence })}
            onCopy={(occurrence) =>
              // It may have been moved since it was opened.
              choose({
                kind: 'copy',
                occurrence: data.occurrences.find((o) => occurrenceKey(o) === occurrenceKey(occurrence)) ?? occurrence,
                shift: null,
              })
            }
          />
        )}
        {data && chosen?.kind === 'copy' && (
          <CopySheet
            key={nth}
            occurrence={chosen.occurrence}
            shift={chosen.shift}
            calendars={data.calendars}
            onClose={close}
          />
        )}
        {data && chosen?.kind === 'new-event' && (
          <NewEventSheet
            key={nth}
            draft={chosen.draft}
            calendars={data.calendars}
            onClose={close}
            onGoOn={(occurrence) => leadOn({ kind: 'event', occurrence })}
          />
        )}
        {data && chosen?.kind === 'lines' && (
          <PastedLines
            key={nth}
            calendar={data.calendars.find((c) => c.id === chosen.calendarId) ?? null}
            day={chosen.day}
            lines={chosen.lines}
            onClose={close}
          />
        )}
        {data && (calendar || chosen?.kind === 'new-calendar') && (
          <CalendarSheet
            key={calendar ? (made?.id === calendar.id ? made.key : calendar.id) : `new ${nth}`}
            calendar={calendar ?? null}
            isGone={Boolean(calendar && !there)}
            calendars={data.calendars}
            zone={school.zone}
            onClose={close}
            onMade={(id) => {
              // The same sheet: what was typed on while it was added stands there.
              setMade({ id, key: `new ${nth}` });
              leadOn({ kind: 'calendar', id });
            }}
          />
        )}
      </div>
      <PrintKey calendars={seen} />
      <KeysPanel />
    </main>
  );
};

/** Typed dates: "12 May", "next week", "week 6". */
const GoTo = ({ from, onGo }: { from: Day; onGo: (day: Day) => void }) => {
  const { t, language } = useTexts();
  const [text, setText] = useState('');
  const [failed, setFailed] = useState(false);
  const go = async (e: SubmitEvent) => {
    e.preventDefault();
    const { day } = await api.typed(text, from, language);
    setFailed(day === null);
    if (day) {
      onGo(day);
      setText('');
    }
  };
  return (
    <Form onSubmit={(e) => void go(e).catch(() => setFailed(true))} className="go-to">
      <Form.Control
        value={text}
        placeholder={t('plan.goTo')}
        aria-label={t('plan.goToLabel')}
        isInvalid={failed}
        onChange={(e) => {
          setText(e.target.value);
          setFailed(false);
        }}
      />
      {failed && (
        <span className="go-to-failed" role="alert">
          {t('plan.goToFailed')}
        </span>
      )}
    </Form>
  );
};
