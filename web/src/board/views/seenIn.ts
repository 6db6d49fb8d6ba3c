import type { Calendar, Occurrence } from '../../shared/api/client';
import { addDays, type Day } from '../../shared/dates';

/**
 * What is to be seen of some days, and as which calendar's: its own, or where that is hidden the first one it stands in
 * beside. What stands in hidden calendars alone is neither shown nor counted.
 */
export const seenIn = (occurrences: Occurrence[], calendars: Calendar[], from: Day, days: number) => {
  const byId = new Map(calendars.map((c) => [c.id, c]));
  const calendarOf = (o: Occurrence): Calendar | undefined =>
    [o.calendarId, ...o.alsoIn].map((id) => byId.get(id)).find((c) => c !== undefined);
  const to = addDays(from, days);
  return { seen: occurrences.filter((o) => o.lastDay >= from && o.firstDay < to && calendarOf(o)), calendarOf };
};
