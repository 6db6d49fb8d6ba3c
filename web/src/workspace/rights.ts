import type { Calendar } from '../shared/api/client';

/** Whether the person keeps the events of a calendar. */
export const mayEdit = (calendar: Calendar | undefined): boolean =>
  calendar?.role === 'editor' || calendar?.role === 'keeper';
