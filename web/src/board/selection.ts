import type { EventDraft } from '../event/draft/draft';
import type { Occurrence, Shift } from '../shared/api/client';
import type { Day } from '../shared/dates';
import { occurrenceKey } from '../shared/occurrences';

/** What is chosen on the board: it stands in the sheet. */
export type Chosen =
  | { kind: 'event'; occurrence: Occurrence; shift?: Shift }
  | { kind: 'new-event'; draft: EventDraft }
  /** Another one like it, to be put somewhere. */
  | { kind: 'copy'; occurrence: Occurrence; shift: Shift | null }
  | { kind: 'lines'; calendarId: string; day: Day; lines: string[] }
  | { kind: 'calendar'; id: string }
  | { kind: 'new-calendar' };

/** Whether an occurrence is the one in the sheet. */
export const isChosen = (chosen: Chosen | null, occurrence: Occurrence): boolean =>
  chosen?.kind === 'event' && occurrenceKey(chosen.occurrence) === occurrenceKey(occurrence);
