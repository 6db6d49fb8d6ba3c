import type { Reach } from './api/client';

export const DETAILS = ['nothing', 'timesOnly', 'headlines', 'everything'] as const;
export type Detail = (typeof DETAILS)[number];

/** Audiences beside the team, from the narrowest to the widest. */
export const AUDIENCES = ['members', 'linkHolders', 'everyone'] as const;
export type Audience = (typeof AUDIENCES)[number];

const rank = (detail: Detail): number => DETAILS.indexOf(detail);
const lower = (a: Detail, b: Detail): Detail => (rank(a) <= rank(b) ? a : b);

/** What is left of a reach within a limit. */
export const within = (reach: Reach, limit: Reach | null): Reach =>
  limit
    ? {
        members: lower(reach.members, limit.members),
        linkHolders: lower(reach.linkHolders, limit.linkHolders),
        everyone: lower(reach.everyone, limit.everyone),
      }
    : reach;

/**
 * A limit by which an audience gets a detail of what the calendar gives. Wider audiences get no more than it, narrower
 * ones no less; null when nothing is left to limit.
 */
export const limited = (calendar: Reach, limit: Reach | null, audience: Audience, detail: Detail): Reach | null => {
  const next = { ...within(calendar, limit), [audience]: detail };
  const at = AUDIENCES.indexOf(audience);
  AUDIENCES.forEach((other, i) => {
    if (i < at && rank(next[other]) < rank(detail)) next[other] = lower(detail, calendar[other]);
    if (i > at) next[other] = lower(next[other], detail);
  });
  if (AUDIENCES.every((a) => next[a] === calendar[a])) return null;
  // Where nothing is limited the calendar keeps the say, also when it opens later.
  let most: Detail = 'everything';
  const made = { ...next };
  for (const a of AUDIENCES) {
    if (next[a] !== calendar[a]) most = next[a];
    made[a] = most;
  }
  return made;
};

/** A calendar's reach with one audience getting a detail: wider ones get no more than it, narrower ones no less. */
export const opened = (reach: Reach, audience: Audience, detail: Detail): Reach => {
  const at = AUDIENCES.indexOf(audience);
  const next = { ...reach };
  AUDIENCES.forEach((other, i) => {
    if (i === at || (i > at && rank(next[other]) > rank(detail)) || (i < at && rank(next[other]) < rank(detail)))
      next[other] = detail;
  });
  return next;
};

/** The widest audience that gets more than before; null when nobody does. */
export const widest = (before: Reach, after: Reach): Audience | null =>
  AUDIENCES.findLast((a) => rank(after[a]) > rank(before[a])) ?? null;

/** Limits with a name of their own; what is none of them is one's own table. */
export const LIMITS = {
  none: null,
  headlines: { members: 'everything', linkHolders: 'headlines', everyone: 'headlines' },
  times: { members: 'everything', linkHolders: 'timesOnly', everyone: 'timesOnly' },
  members: { members: 'everything', linkHolders: 'nothing', everyone: 'nothing' },
  team: { members: 'nothing', linkHolders: 'nothing', everyone: 'nothing' },
} satisfies Record<string, Reach | null>;
export type LimitName = keyof typeof LIMITS;
export const LIMIT_NAMES = Object.keys(LIMITS) as LimitName[];

export const limitName = (limit: Reach | null | undefined): LimitName | 'own' =>
  LIMIT_NAMES.find((name) => {
    const one: Reach | null = LIMITS[name];
    return one === null || !limit ? one === (limit ?? null) : AUDIENCES.every((a) => one[a] === limit[a]);
  }) ?? 'own';
