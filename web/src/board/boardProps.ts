import type { Board, Calendar } from '../shared/api/client';
import type { Day } from '../shared/dates';
import type { Chosen } from './selection';

/** What every form of the board is given. */
export interface BoardProps {
  data: Board;
  /** The calendars that are not hidden, in the person's order. */
  calendars: Calendar[];
  from: Day;
  days: number;
  today: Day;
  chosen: Chosen | null;
  onChoose: (chosen: Chosen) => void;
}
