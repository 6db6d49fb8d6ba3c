import { useQueryClient } from '@tanstack/react-query';
import { useMemo } from 'react';
import {
  api,
  type Calendar,
  type CalendarInput,
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
      changeEvent: (before: EventData, input: EventInput) =>
        act(
          api.changeEvent(before.id, input),
          (e) => t('done.changed', { title: e.title }),
          async (e) => {
            const now = await api.event(e.id);
            return api.changeEvent(e.id, { ...inputOf(before), version: now.version });
          },
        ),
      binEvent: (event: EventData) =>
        act(
          api.binEvent(event.id, event.version),
          () => t('done.binned', { title: event.title }),
          () => api.restoreEvent(event.id),
        ),
      leaveOut: (event: EventData, date: string) =>
        act(
          api.leaveOut(event.id, date, event.version),
          () => t('done.leftOut', { title: event.title }),
          async () => api.putBack(event.id, date, (await api.event(event.id)).version),
        ),
      putBack: (event: EventData, date: string) =>
        act(
          api.putBack(event.id, date, event.version),
          () => t('done.putBack', { title: event.title }),
          async () => api.leaveOut(event.id, date, (await api.event(event.id)).version),
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
