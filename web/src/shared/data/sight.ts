import type { Day } from '../dates';

// Which days the board shows now; none where no board is on the screen.
let shown: { from: Day; to: Day } | null = null;

/** Says which days are on the screen, the last one not among them. */
export const setSight = (days: { from: Day; to: Day } | null) => {
  shown = days;
};

/** Whether somebody sees a day, or sees no days at all. */
export const isInSight = (day: Day): boolean => shown === null || (shown.from <= day && day < shown.to);
