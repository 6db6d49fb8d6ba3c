import { useQueryClient } from '@tanstack/react-query';
import { useMemo } from 'react';
import {
  api,
  type Answer,
  type BulkInput,
  type Calendar,
  type CalendarInput,
  type Clash,
  type DateVerb,
  type EditInput,
  type EventData,
  type EventInput,
  type Proposal,
  type ProposedStep,
  type Lists,
  type Reach,
  type SchoolYear,
  type SchoolYearInput,
} from '../shared/api/client';
import { useTexts } from '../shared/i18n';
import { useUndo } from '../shared/undo';
import { didItself } from '../shared/useLive';
import { toAsk } from './rights';
import { draftOfYear, yearName } from '../year/yearDraft';

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

const calendarInputOf = (c: Calendar): CalendarInput => ({
  title: c.title,
  description: c.description,
  group: c.group,
  zone: c.zone,
  mark: c.mark,
  version: c.version,
});

/** Undoes that an event was made, binned or taken out: as an undo, so that it is not itself undone after a reload. */
const inBin = async (id: string, isThere: boolean) => {
  const now = await api.event(id);
  return api.undoEvent(id, { ...now, inBin: isThere }, now.version);
};

/** Every change of the workspace: done, shown, and undoable. */
export const useActions = () => {
  const queries = useQueryClient();
  const { done, tell } = useUndo();
  const { t } = useTexts();

  return useMemo(() => {
    const again = (keys: string[]) => keys.map((key) => queries.invalidateQueries({ queryKey: [key] }));
    // Whoever waits goes on with what the next change is made from; the rest comes in by itself.
    const refresh = async () => {
      void Promise.all(again(['year', 'dates', 'proof', 'year-plan', 'checks', 'bin', 'proposals']));
      await Promise.all(again(['board', 'event', 'publications', 'school-years', 'lists']));
    };
    /** Runs a change, shows it, and offers the way back. */
    const act = async <T>(run: Promise<T>, text: (result: T) => string, undo: (result: T) => Promise<unknown>) => {
      didItself();
      const result = await run;
      didItself();
      done({
        text: text(result),
        undo: async () => {
          didItself();
          await undo(result);
          await refresh();
        },
      });
      await refresh();
      return result;
    };

    /** Offers something; taken back it is withdrawn, and what was done at once is undone. */
    const offer = (run: ReturnType<typeof api.offer>, undoEvent: (e: EventData) => Promise<unknown>) =>
      act(
        run,
        ({ event, proposal }) =>
          t(proposal ? 'done.proposed' : 'done.changed', { title: (proposal?.offered ?? event)?.title ?? '' }),
        async ({ event, proposal }) => {
          if (proposal) await api.withdraw(proposal.id);
          if (event) await undoEvent(event);
        },
      );

    const yearSaved = (year: SchoolYear, series: number) =>
      series > 0
        ? t('done.yearSeries', { year: yearName(year), count: series })
        : t('done.year', { year: yearName(year) });

    return {
      addYear: async (input: SchoolYearInput) =>
        (
          await act(
            api.addYear(input),
            ({ year, series }) => yearSaved(year, series),
            ({ year }) => api.removeYear(year.id, year.version),
          )
        ).year,
      changeYear: async (before: SchoolYear, input: SchoolYearInput) =>
        (
          await act(
            api.changeYear(before.id, input),
            ({ year, series }) => yearSaved(year, series),
            ({ year }) => api.changeYear(year.id, { ...draftOfYear(before), version: year.version }),
          )
        ).year,
      removeYear: (year: SchoolYear) =>
        act(
          api.removeYear(year.id, year.version),
          () => t('done.yearRemoved', { year: yearName(year) }),
          () => api.addYear({ ...draftOfYear(year), version: null }),
        ),
      keepLists: (before: Lists, input: Lists) =>
        act(
          api.keepLists(input),
          () => t('done.lists'),
          (lists) => api.keepLists({ ...before, version: lists.version }),
        ),
      acceptClash: (clash: Clash, reason: string) =>
        act(
          api.acceptClash(clash.key, reason),
          () => t('done.accepted'),
          () => api.takeBackClash(clash.key),
        ),
      takeBackClash: (clash: Clash) =>
        act(
          api.takeBackClash(clash.key),
          () => t('done.takenBack'),
          () => api.acceptClash(clash.key, clash.accepted ?? ''),
        ),
      /** Adds an event; where keepers have to be asked, it is offered to them: then it may not be there yet. */
      addEvent: (input: EventInput, calendars: Calendar[], remark = ''): Promise<EventData | null> =>
        toAsk(input, calendars).length > 0
          ? offer(api.offer(input, remark), (e) => inBin(e.id, true)).then(({ event }) => event)
          : act(
              api.addEvent(input),
              (e) => t('done.added', { title: e.title }),
              (e) => inBin(e.id, true),
            ),
      offerChange: (before: EventData, input: EditInput, remark: string) =>
        offer(api.offerChange(before.id, input, remark), async (e) =>
          api.undoEvent(e.id, before, (await api.event(e.id)).version),
        ),
      offerStep: (before: EventData, step: ProposedStep, date: string | null, remark: string) =>
        offer(api.offerStep(before.id, { step, date, version: before.version, remark }), async (e) =>
          api.undoEvent(e.id, before, (await api.event(e.id)).version),
        ),
      revise: async (proposal: Proposal, input: EventInput, remark: string) =>
        act(
          api.revise(proposal.id, input, remark, proposal.version),
          (p) => t('done.proposed', { title: p.offered.title }),
          (p) => api.revise(p.id, inputOf(proposal.offered), proposal.remark, p.version),
        ),
      withdraw: async (proposal: Proposal) => {
        didItself();
        await api.withdraw(proposal.id);
        tell(t('done.withdrawn', { title: proposal.offered.title }));
        await refresh();
      },
      answer: (proposal: Proposal, calendarIds: string[], answer: Exclude<Answer, 'open'>, remark: string) =>
        act(
          api.answer(proposal.id, { calendarIds, answer, remark, version: proposal.version }),
          (p) => t(`done.answer.${answer}`, { title: p.offered.title }),
          (p) => api.reopen(p.id, calendarIds),
        ),
      reopen: (proposal: Proposal, calendarIds: string[]) => {
        const ask = proposal.asks.find((a) => calendarIds.includes(a.calendarId));
        return act(
          api.reopen(proposal.id, calendarIds),
          (p) => t('done.reopened', { title: p.offered.title }),
          (p) =>
            api.answer(p.id, {
              calendarIds,
              answer: ask?.answer ?? 'approved',
              remark: ask?.remark ?? '',
              version: p.version,
            }),
        );
      },
      addMany: (inputs: EventInput[]) =>
        act(
          api.addMany(inputs),
          (made) => t('done.addedMany', { count: made.length }),
          (made) => api.undoMany({ events: made.map((e) => ({ state: { ...e, inBin: true }, version: e.version })) }),
        ),
      editEvent: (before: EventData, input: EditInput) =>
        act(
          api.editEvent(before.id, input),
          ({ event }) => t('done.changed', { title: event.title }),
          async ({ event, added }) =>
            api.undoEvent(
              event.id,
              before,
              (await api.event(event.id)).version,
              added.map((e) => e.id),
            ),
        ),
      changeMany: (dates: NonNullable<BulkInput['dates']>, input: Partial<BulkInput>) =>
        act(
          api.changeMany({ setsCategory: false, setsReach: false, deletes: false, ...input, dates }),
          () => t('done.many', { count: dates.length }),
          ({ events }) => (events.length > 0 ? api.undoMany({ events }) : Promise.resolve()),
        ),
      putBack: (event: EventData, state: EventData) =>
        act(
          api.undoEvent(event.id, state, event.version),
          () => t('done.putBack', { title: state.title }),
          async (e) => api.undoEvent(e.id, event, (await api.event(e.id)).version),
        ),
      restoreEvent: (id: string, title: string) =>
        act(
          api.restoreEvent(id),
          () => t('done.restored', { title }),
          () => inBin(id, true),
        ),
      binEvent: (event: EventData) =>
        act(
          api.binEvent(event.id, event.version),
          () => t('done.binned', { title: event.title }),
          () => inBin(event.id, false),
        ),
      onDate: (before: EventData, verb: DateVerb, date: string) =>
        act(
          api.onDate(before.id, verb, date, before.version),
          () => t(`done.date.${verb}`, { title: before.title }),
          async (e) => api.undoEvent(e.id, before, (await api.event(e.id)).version),
        ),
      addCalendar: (input: CalendarInput) =>
        act(
          api.addCalendar(input),
          (c) => t('done.calendarAdded', { title: c.title }),
          (c) => api.binCalendar(c.id, c.version),
        ),
      changeCalendar: (before: Calendar, input: CalendarInput) =>
        act(
          api.changeCalendar(before.id, input),
          (c) => t('done.changed', { title: c.title }),
          (c) => api.changeCalendar(c.id, { ...calendarInputOf(before), version: c.version }),
        ),
      setReach: (before: Calendar, reach: Reach, isOutOfSearch = before.isOutOfSearch) =>
        act(
          api.setReach(before.id, reach, isOutOfSearch, before.version),
          (c) =>
            t(
              c.reach.everyone === before.reach.everyone
                ? 'done.changed'
                : c.reach.everyone === 'nothing'
                  ? 'done.closed'
                  : 'done.opened',
              { title: c.title },
            ),
          (c) => api.setReach(c.id, before.reach, before.isOutOfSearch, c.version),
        ),
      binCalendar: (calendar: Calendar) =>
        act(
          api.binCalendar(calendar.id, calendar.version),
          () => t('done.binned', { title: calendar.title }),
          () => api.restoreCalendar(calendar.id),
        ),
    };
  }, [queries, done, tell, t]);
};
