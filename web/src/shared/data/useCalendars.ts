import { useQuery } from '@tanstack/react-query';
import { api } from '../api/client';
import { addDays, type Day } from '../dates';

/** The calendars one may know of. Any window of the board tells them: this is the shortest. */
export const useCalendars = (today: Day) => {
  const to = addDays(today, 1);
  return useQuery({
    queryKey: ['board', today, to],
    queryFn: () => api.board(today, to),
    select: (board) => board.calendars,
  });
};
