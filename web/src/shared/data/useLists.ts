import { useQuery, useQueryClient } from '@tanstack/react-query';
import { api, type Board, type Calendar, type Lists, type Place } from '../api/client';

const EMPTY: Lists = {
  categories: [],
  places: [],
  noticeDays: 0,
  testsADay: 0,
  mapPattern: '',
  maxFileMegabytes: 25,
  isMonthFirst: false,
  version: 1,
};

/** The school's categories and places. */
export const useLists = (): Lists =>
  useQuery({ queryKey: ['lists'], queryFn: api.lists, staleTime: 60_000 }).data ?? EMPTY;

const nameKey = (name: string): string => name.trim().toLowerCase().split(/\s+/).join(' ');

/** The place of the school that a text names. */
export const placeNamed = (lists: Lists, text: string): Place | undefined =>
  text.trim() ? lists.places.find((place) => nameKey(place.name) === nameKey(text)) : undefined;

/** Where the way to a place is shown; null when the school has no map, or the place no address. */
export const wayTo = (lists: Lists, place: Place | undefined): string | null =>
  place?.address && lists.mapPattern ? lists.mapPattern.replace('{address}', encodeURIComponent(place.address)) : null;

/** The calendars of the board that was last loaded. */
export const useCalendars = (): Calendar[] => {
  const queries = useQueryClient();
  return queries.getQueriesData<Board>({ queryKey: ['board'] }).findLast(([, board]) => board)?.[1]?.calendars ?? [];
};
