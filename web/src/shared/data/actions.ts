import { useQueryClient } from '@tanstack/react-query';
import { useMemo } from 'react';
import {
  api,
  changeOf,
  stepOf,
  type Answer,
  type BringingInput,
  type BulkInput,
  type Calendar,
  type CalendarInput,
  type DateVerb,
  type EditInput,
  type EventData,
  type EventInput,
  type Proposal,
  type ProposedStep,
  type Detail,
  type Lists,
  type Occurrence,
  type OpeningRequest,
  type Reach,
  type SchoolYear,
  type SchoolYearInput,
} from '../api/client';
import { useTexts } from '../i18n';
import { useUndo } from './undo';
import { ofOwn, showInBoards } from './bringIn';
import { askedQuery } from './rights';
import { addDays, dayOf, longDay, monday, yearName, type Day } from '../dates';
import { isInSight } from './sight';

export const inputOf = (event: EventData): EventInput => ({
  calendarId: event.calendarId,
  title: event.title,
  place: event.place,
  description: event.description,
  timing: event.timing,
  rule: event.rule,
  follows: event.follows,
  facts: event.facts,
  version: event.version,
});

/** A date as the board shows it. */
interface ShownDate {
  id: string;
  /** When it begins. */
  start: string;
  /** The name of a date of a series that was moved: when it would have begun. */
  date?: string | null | undefined;
}

const firstOf = (event: EventData): ShownDate => ({ id: event.id, start: event.first ?? event.timing.start });

/** What the next change is made from: whoever waits goes on with it. */
const MADE_FROM = ['publications', 'school-years', 'lists'];
/** What comes in by itself. */
const COUNTED = [
  'year',
  'dates',
  'proof',
  'year-plan',
  'checks',
  'bin',
  'proposals',
  'shared-places',
  'opening-requests',
  'sources',
  'brought',
  'origin',
];

/** Every change of the workspace: done, shown, and undoable. */
export const useActions = () => {
  const queries = useQueryClient();
  const { done, during } = useUndo();
  const { t, language } = useTexts();

  return useMemo(() => {
    const again = (keys: string[]) => keys.map((key) => queries.invalidateQueries({ queryKey: [key] }));
    const refresh = async (answer: unknown) => {
      const own = changeOf(answer);
      void Promise.all(again(own ? [...COUNTED, ...MADE_FROM] : COUNTED));
      await Promise.all([
        showInBoards(queries, answer),
        ...(own
          ? own.ids.map((id) => queries.invalidateQueries({ queryKey: ['event', id] }))
          : again(['event', ...MADE_FROM])),
      ]);
    };
    // To the week of a day that is not in sight, in the form of the board that is on the screen.
    const leadTo = (day: Day, text: string, open?: string) => {
      const there = new URLSearchParams(location.pathname === '/plan' ? location.search : '');
      there.set('from', monday(day));
      if (open) there.set('open', open);
      return { text, to: `/plan?${there.toString()}` };
    };
    const leadToOne = (shown: ShownDate | null, isElsewhere: boolean) => {
      const day = shown && dayOf(shown.start);
      return day && (isElsewhere || !isInSight(day))
        ? leadTo(day, t('done.lies', { day: longDay(day, language) }), `${shown.id}_${shown.date ?? shown.start}`)
        : undefined;
    };
    /** To the first of several, whose sheet nobody asked for. */
    const leadToFirst = (starts: string[]) => {
      const day = starts.map(dayOf).sort()[0];
      return day && !isInSight(day) ? leadTo(day, t('done.lieFrom', { day: longDay(day, language) })) : undefined;
    };
    interface Ways<T> {
      /** A way back of its own. */
      undo?: (result: T) => Promise<unknown>;
      /** Where what was added, copied or moved lies now: that is told when it is not in sight. */
      lies?: (result: T) => ShownDate | null;
      /** The same of several: when they begin. */
      lie?: (result: T) => string[];
      /** Whether it is done where nothing is seen of it. */
      isElsewhere?: boolean;
      /** Hears what became of it before it is shown. */
      known?: ((result: T) => void) | undefined;
    }
    /** Runs a change, shows it, and offers the way back: by its step on the server, or by a way of its own. */
    const act = async <T>(
      run: Promise<T>,
      text: (result: T) => string,
      { undo, lies, lie, isElsewhere = false, known }: Ways<T> = {},
    ) => {
      const result = await during(ofOwn(run));
      known?.(result);
      done({
        text: text(result),
        step: stepOf(result),
        lead: lie ? leadToFirst(lie(result)) : leadToOne(lies?.(result) ?? null, isElsewhere),
        ...(undo && { undo: () => undo(result) }),
      });
      await refresh(result);
      return result;
    };

    const offer = (run: ReturnType<typeof api.offer>, known?: (event: EventData | null) => void) =>
      act(
        run,
        ({ event, proposal }) =>
          t(proposal ? 'done.proposed' : 'done.changed', { title: (proposal?.offered ?? event)?.title ?? '' }),
        { known: ({ event }) => known?.(event) },
      );

    const yearSaved = (year: SchoolYear, series: number) =>
      series > 0
        ? t('done.yearSeries', { year: yearName(year), count: series })
        : t('done.year', { year: yearName(year) });

    return {
      addYear: async (input: SchoolYearInput) =>
        (await act(api.addYear(input), ({ year, series }) => yearSaved(year, series))).year,
      changeYear: async (before: SchoolYear, input: SchoolYearInput) =>
        (await act(api.changeYear(before.id, input), ({ year, series }) => yearSaved(year, series))).year,
      removeYear: (year: SchoolYear) =>
        act(api.removeYear(year.id, year.version), () => t('done.yearRemoved', { year: yearName(year) })),
      keepLists: (input: Lists) => act(api.keepLists(input), () => t('done.lists')),
      acceptClash: (key: string, reason: string) =>
        act(api.acceptClash(key, reason), () => t('done.accepted'), { undo: () => api.takeBackClash(key) }),
      takeBackClash: (key: string, reason: string) =>
        act(api.takeBackClash(key), () => t('done.takenBack'), { undo: () => api.acceptClash(key, reason) }),
      /** Adds an event; where keepers have to be asked, it is offered to them: then it may not be there yet. */
      addEvent: async (input: EventInput, remark = ''): Promise<EventData | null> =>
        (await queries.query(askedQuery(input, null))).length > 0
          ? offer(api.offer(input, remark)).then(({ event }) => event)
          : act(api.addEvent(input), (e) => t('done.added', { title: e.title }), {
              lies: firstOf,
            }),
      offerChange: (before: EventData, input: EditInput, remark: string) =>
        offer(api.offerChange(before.id, input, remark)),
      offerStep: (before: EventData, step: ProposedStep, date: string | null, remark: string) =>
        offer(api.offerStep(before.id, { step, date, version: before.version, remark })),
      /** Makes another event like one, or like one of its dates; where keepers have to be asked, it is offered. */
      copyEvent: (
        eventId: string,
        input: Parameters<typeof api.copyEvent>[1],
        start: string | null = null,
        known?: (made: EventData | null) => void,
      ) =>
        act(
          api.copyEvent(eventId, input),
          ({ event, proposal }) =>
            t(event ? 'done.copied' : 'done.proposed', { title: (event ?? proposal?.offered)?.title ?? '' }),
          {
            // Of a series where the date comes to lie that it was taken by.
            lies: ({ event }) => event && (start ? { id: event.id, start } : firstOf(event)),
            known: ({ event }) => known?.(event),
          },
        ),
      revise: (proposal: Proposal, input: EventInput, remark: string) =>
        act(api.revise(proposal.id, input, remark, proposal.version), (p) =>
          t('done.proposed', { title: p.offered.title }),
        ),
      withdraw: (proposal: Proposal) =>
        act(api.withdraw(proposal.id), () => t('done.withdrawn', { title: proposal.offered.title })),
      answer: (proposal: Proposal, calendarIds: string[], answer: Exclude<Answer, 'open'>, remark: string) =>
        act(api.answer(proposal.id, { calendarIds, answer, remark, version: proposal.version }), (p) =>
          t(`done.answer.${answer}`, { title: p.offered.title }),
        ),
      reopen: (proposal: Proposal, calendarIds: string[]) =>
        act(api.reopen(proposal.id, calendarIds), (p) => t('done.reopened', { title: p.offered.title })),
      /** Brings in a file that lies ready, as one step. */
      bringIn: (id: string, input: BringingInput) =>
        act(api.bringIn(id, input), (what) =>
          t('done.broughtIn', {
            count: what.counts
              .filter((c) => c.kind === 'new' || c.kind === 'changed')
              .reduce((sum, c) => sum + c.count, 0),
          }),
        ),
      follow: (input: Parameters<typeof api.follow>[0]) =>
        act(api.follow(input), () => t('done.followed', { title: input.title ?? '' })),
      readSource: (id: string, isEmptyRight = false) =>
        act(api.readSource(id, isEmptyRight), (source) => t(source.problem ? 'done.readBadly' : 'done.read')),
      changeSource: (id: string, input: Parameters<typeof api.changeSource>[1]) =>
        act(api.changeSource(id, input), () => t('done.sourceChanged')),
      stopSource: (id: string, keeps: boolean) => act(api.stopSource(id, keeps), () => t('done.stopped')),
      sortSource: (id: string, rules: Parameters<typeof api.sortSource>[1], version: number) =>
        act(api.sortSource(id, rules, version), () => t('done.sorted')),
      addMany: (inputs: EventInput[]) =>
        act(api.addMany(inputs), (made) => t('done.addedMany', { count: made.length }), {
          lie: (made) => made.map((e) => firstOf(e).start),
        }),
      /** Changes an event; where it goes to a calendar whose keepers have to be asked, that is offered to them. */
      moveEvent: async (
        before: EventData,
        input: EditInput,
        known?: (saved: EventData | null) => void,
      ): Promise<EventData | null> =>
        input.calendarId !== before.calendarId && (await queries.query(askedQuery(input, before.id))).length > 0
          ? offer(api.offerChange(before.id, input, ''), known).then(({ event }) => event)
          : act(api.editEvent(before.id, input), ({ event }) => t('done.changed', { title: event.title }), {
              known: ({ event }) => known?.(event),
            }).then(({ event }) => event),
      editEvent: (before: EventData, input: EditInput) =>
        act(api.editEvent(before.id, input), ({ event }) => t('done.changed', { title: event.title }), {
          lies: ({ event, added }) => {
            const date = before.rule ? input.date : null;
            const change = before.changes.find((c) => c.date === date);
            const was = change?.timing?.start ?? date ?? firstOf(before).start;
            // Of a whole series nobody knows which date is looked for.
            const shown = added[0]
              ? firstOf(added[0])
              : !before.rule
                ? firstOf(event)
                : input.scope === 'thisDate' && { id: event.id, start: input.timing.start, date };
            return shown && shown.start !== was ? shown : null;
          },
        }),
      changeMany: (rows: Pick<Occurrence, 'eventId' | 'date' | 'start'>[], input: Partial<BulkInput>) => {
        const changed = (left: { eventId: string }[]) => rows.filter((r) => !left.some((l) => l.eventId === r.eventId));
        return act(
          api.changeMany({
            setsCategory: false,
            setsReach: false,
            deletes: false,
            copiesSeries: false,
            ...input,
            dates: rows.map(({ eventId, date }) => ({ eventId, date })),
          }),
          ({ left }) => t('done.many', { count: changed(left).length }),
          {
            lie: ({ left }) =>
              input.moveDays ? changed(left).map((r) => addDays(dayOf(r.start), input.moveDays ?? 0)) : [],
          },
        );
      },
      putBack: (event: EventData, state: EventData) =>
        act(api.putBack(event.id, state, event.version), () => t('done.putBack', { title: state.title })),
      restoreEvent: (id: string, title: string) =>
        act(api.restoreEvent(id), () => t('done.restored', { title }), { lies: firstOf, isElsewhere: true }),
      restoreCalendar: (id: string, title: string) => act(api.restoreCalendar(id), () => t('done.restored', { title })),
      binEvent: (event: EventData) =>
        act(api.binEvent(event.id, event.version), () => t('done.binned', { title: event.title })),
      onDate: (before: EventData, verb: DateVerb, date: string) =>
        act(api.onDate(before.id, verb, date, before.version), () => t(`done.date.${verb}`, { title: before.title })),
      addCalendar: (input: CalendarInput) =>
        act(api.addCalendar(input), (c) => t('done.calendarAdded', { title: c.title })),
      changeCalendar: (before: Calendar, input: CalendarInput) =>
        act(api.changeCalendar(before.id, input), (c) => t('done.changed', { title: c.title })),
      answerRequest: (request: OpeningRequest, given: Detail, remark: string) =>
        act(api.answerRequest(request.id, given, remark), () =>
          t(given === 'nothing' ? 'done.requestRefused' : 'done.requestOpened', { title: request.calendar }),
        ),
      setReach: (before: Calendar, reach: Reach, isOutOfSearch = before.isOutOfSearch) =>
        act(api.setReach(before.id, reach, isOutOfSearch, before.version), (c) =>
          t(
            c.reach.everyone === before.reach.everyone
              ? 'done.changed'
              : c.reach.everyone === 'nothing'
                ? 'done.closed'
                : 'done.opened',
            { title: c.title },
          ),
        ),
      binCalendar: (calendar: Calendar) =>
        act(api.binCalendar(calendar.id, calendar.version), () => t('done.binned', { title: calendar.title })),
    };
  }, [queries, done, during, t, language]);
};
