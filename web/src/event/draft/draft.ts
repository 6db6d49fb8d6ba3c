import type { EventInput, Facts, Follows, Rule, Timing } from '../../shared/api/client';
import { addDays, addMinutes, at, clockOf, dayOf, daysBetween, minutesBetween, type Day } from '../../shared/dates';

/** An event as it stands in the sheet's fields. */
export interface EventDraft {
  /** Empty until one is chosen: no calendar is ever assumed. */
  calendarId: string;
  title: string;
  place: string;
  description: string;
  allDay: boolean;
  firstDay: Day;
  from: string;
  lastDay: Day;
  to: string;
  zone: string | null;
  rule: Rule | null;
  /** How the series follows school days. */
  follows: Follows | null;
  facts: DraftFacts;
}

/** What an event has beside, with nothing left open. */
export type DraftFacts = { [K in keyof Facts]-?: Exclude<Facts[K], undefined> } & {
  tags: string[];
  links: NonNullable<Facts['links']>;
  alsoIn: string[];
  subtitle: string;
  files: NonNullable<Facts['files']>;
  limits: NonNullable<Facts['limits']>;
};

export const factsOf = (facts: Facts | null | undefined): DraftFacts => ({
  subtitle: facts?.subtitle ?? '',
  categoryId: facts?.categoryId ?? null,
  tags: facts?.tags ?? [],
  mark: facts?.mark ?? null,
  isFree: facts?.isFree ?? false,
  reminder: facts?.reminder ?? null,
  isDraft: facts?.isDraft ?? false,
  links: facts?.links ?? [],
  alsoIn: facts?.alsoIn ?? [],
  size: facts?.size ?? null,
  files: facts?.files ?? [],
  picture: facts?.picture ?? null,
  reach: facts?.reach ?? null,
  limits: facts?.limits ?? [],
});

export const newDraft = (calendarId: string, day: Day, title = ''): EventDraft => ({
  calendarId,
  title,
  place: '',
  description: '',
  allDay: true,
  firstDay: day,
  from: '09:00',
  lastDay: day,
  to: '10:00',
  zone: null,
  rule: null,
  follows: null,
  facts: factsOf(null),
});

export const withTiming = (draft: EventDraft, timing: Timing): EventDraft => ({
  ...draft,
  allDay: timing.kind === 'allDay',
  firstDay: dayOf(timing.start),
  lastDay: dayOf(timing.end),
  from: timing.kind === 'allDay' ? draft.from : clockOf(timing.start),
  to: timing.kind === 'allDay' ? draft.to : clockOf(timing.end),
  zone: timing.zone,
});

export const draftOf = (event: EventInput): EventDraft =>
  withTiming(
    {
      ...newDraft(event.calendarId, dayOf(event.timing.start), event.title ?? ''),
      place: event.place ?? '',
      description: event.description ?? '',
      // Its text is the server's to say, and no longer true once a part is changed.
      rule: event.rule && { ...event.rule, text: null },
      follows: event.follows ?? null,
      facts: factsOf(event.facts),
    },
    event.timing,
  );

export const timingOf = (draft: EventDraft): Timing => ({
  kind: draft.allDay ? 'allDay' : 'zoned',
  start: at(draft.firstDay, draft.allDay ? '00:00' : draft.from),
  end: at(draft.lastDay, draft.allDay ? '00:00' : draft.to),
  zone: draft.allDay ? null : draft.zone,
});

export const inputOfDraft = (draft: EventDraft, version: number | null): EventInput => ({
  calendarId: draft.calendarId,
  title: draft.title,
  place: draft.place,
  description: draft.description,
  timing: timingOf(draft),
  rule: draft.rule,
  follows: draft.rule && draft.follows,
  facts: draft.facts,
  version,
});

/** Moves the first day and takes the last one along. */
export const moveFirstDay = (draft: EventDraft, day: Day): EventDraft => ({
  ...draft,
  firstDay: day,
  lastDay: addDays(day, Math.max(0, daysBetween(draft.firstDay, draft.lastDay))),
});

/** Moves the start and keeps the length. */
export const moveStart = (draft: EventDraft, clock: string): EventDraft => {
  const length = minutesBetween(at(draft.firstDay, draft.from), at(draft.lastDay, draft.to));
  if (length < 0) return { ...draft, from: clock };
  const end = addMinutes(at(draft.firstDay, clock), length);
  return { ...draft, from: clock, lastDay: dayOf(end), to: clockOf(end) };
};
