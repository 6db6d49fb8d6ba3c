import { keepPreviousData, queryOptions, useQuery } from '@tanstack/react-query';
import { api, type Calendar } from '../api/client';

/** Whether the person keeps the events of a calendar; what comes from elsewhere is kept there. */
export const mayEdit = (calendar: Calendar | undefined): boolean =>
  !calendar?.isFollowed && (calendar?.role === 'editor' || calendar?.role === 'keeper');

/** Whether the person may at least offer events to a calendar. */
export const mayOffer = (calendar: Calendar | undefined): boolean => calendar?.mayOffer ?? false;

interface Placed {
  calendarId: string;
  facts?: { alsoIn?: string[] | null } | null;
}

/** Whose keepers have to be asked before an event is as it is wanted. */
export const askedQuery = ({ calendarId, facts }: Placed, eventId: string | null) => {
  const alsoIn = facts?.alsoIn ?? [];
  return queryOptions({
    queryKey: ['asked', calendarId, alsoIn, eventId],
    queryFn: () => api.asked(calendarId, alsoIn, eventId),
    staleTime: 60_000,
  });
};

export type Asked = Awaited<ReturnType<typeof api.asked>>;
const NOBODY: Asked = [];

/** Who has to be asked for an event that is being typed; nobody until that is known. */
export const useAsked = (placed: Placed, eventId: string | null): Asked =>
  useQuery({ ...askedQuery(placed, eventId), enabled: placed.calendarId !== '', placeholderData: keepPreviousData })
    .data ?? NOBODY;
