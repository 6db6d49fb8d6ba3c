import type { Calendar } from '../api/client';

/** Whether the person keeps the events of a calendar. */
export const mayEdit = (calendar: Calendar | undefined): boolean =>
  calendar?.role === 'editor' || calendar?.role === 'keeper';

/** Whether the person may at least offer events to a calendar. */
export const mayOffer = (calendar: Calendar | undefined): boolean => calendar?.mayOffer ?? false;

interface Placed {
  calendarId: string;
  facts?: { alsoIn?: string[] | null } | null;
}

/**
 * The calendars whose keepers have to be asked before an event is as it is wanted: those it would newly stand in, and its
 * home for any change of it, where one does not keep their events.
 */
export const toAsk = (wanted: Placed, calendars: Calendar[], before: Placed | null = null): Calendar[] => {
  const standing = before ? (before.facts?.alsoIn ?? []) : [];
  return [wanted.calendarId, ...(wanted.facts?.alsoIn ?? []).filter((id) => !standing.includes(id))]
    .map((id) => calendars.find((c) => c.id === id))
    .filter((c) => c !== undefined && !mayEdit(c)) as Calendar[];
};
