import { useQueryClient } from '@tanstack/react-query';
import { useMemo } from 'react';
import {
  api,
  type Calendar,
  type CalendarInput,
  type DateVerb,
  type EditInput,
  type EventData,
  type EventInput,
  type Reach,
} from '../shared/api/client';
import { useTexts } from '../shared/i18n';
import { useUndo } from '../shared/undo';

export const inputOf = (event: EventData): EventInput => ({
  calendarId: event.calendarId,
  title: event.title,
  place: event.place,
  description: event.description,
  timing: event.timing,
  rule: event.rule,
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

/** Every change of the workspace: done, shown, and undoable. */
export const useActions = () => {
  const queries = useQueryClient();
  const { done } = useUndo();
  const { t } = useTexts();

  return useMemo(() => {
    const refresh = async () => {
      await Promise.all(
        ['board', 'year', 'event', 'publications', 'proof'].map((key) =>
          queries.invalidateQueries({ queryKey: [key] }),
        ),
      );
    };
    /** Runs a change, shows it, and offers the way back. */
    const act = async <T>(run: Promise<T>, text: (result: T) => string, undo: (result: T) => Promise<unknown>) => {
      const result = await run;
      done({
        text: text(result),
        undo: async () => {
          await undo(result);
          await refresh();
        },
      });
      await refresh();
      return result;
    };

    return {
      addEvent: (input: EventInput) =>
        act(
          api.addEvent(input),
          (e) => t('done.added', { title: e.title }),
          async (e) => api.binEvent(e.id, (await api.event(e.id)).version),
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
      binEvent: (event: EventData) =>
        act(
          api.binEvent(event.id, event.version),
          () => t('done.binned', { title: event.title }),
          () => api.restoreEvent(event.id),
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
      setReach: (before: Calendar, reach: Reach) =>
        act(
          api.setReach(before.id, reach, before.version),
          (c) => t(c.reach.everyone === 'nothing' ? 'done.closed' : 'done.opened', { title: c.title }),
          (c) => api.setReach(c.id, before.reach, c.version),
        ),
      binCalendar: (calendar: Calendar) =>
        act(
          api.binCalendar(calendar.id, calendar.version),
          () => t('done.binned', { title: calendar.title }),
          () => api.restoreCalendar(calendar.id),
        ),
    };
  }, [queries, done, t]);
};
