import type { Audience, Detail, Reach } from './api/client';

export const DETAILS = ['nothing', 'timesOnly', 'headlines', 'everything'] as const satisfies Detail[];

/** Audiences beside the team, from the narrowest to the widest. */
export const AUDIENCES = ['members', 'linkHolders', 'everyone'] as const satisfies Audience[];

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
