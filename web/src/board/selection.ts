import type { Occurrence } from '../shared/api/client';
import type { Day } from '../shared/dates';
import type { EventDraft } from '../event/draft/draft';
import type { Shift } from '../event/draft/shift';

/** What is chosen on the board: it stands in the sheet. */
export type Chosen =
  | { kind: 'event'; occurrence: Occurrence; shift?: Shift }
  | { kind: 'new-event'; draft: EventDraft }
  | { kind: 'lines'; calendarId: string; day: Day; lines: string[] }
  | { kind: 'calendar'; id: string }
  | { kind: 'new-calendar' };
