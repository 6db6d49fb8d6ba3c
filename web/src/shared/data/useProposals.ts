import { useQuery } from '@tanstack/react-query';
import { api, type Proposal } from '../api/client';
import { isAsked, useRequests } from './useRequests';

/** What the person has proposed, and what is proposed to calendars whose events they keep. */
export const useProposals = () => useQuery({ queryKey: ['proposals'], queryFn: api.proposals, staleTime: 30_000 });

/** Whether the person can answer some of it. */
export const waits = (proposal: Proposal): boolean =>
  proposal.asks.some((ask) => ask.mayDecide && ask.answer === 'open');

/** Whether somebody's answer is still to come, or a better version. */
export const isUndecided = (proposal: Proposal): boolean =>
  proposal.asks.some((ask) => ask.answer === 'open' || ask.answer === 'sentBack');

/** How many wait for the person. */
export const useWaiting = (): number =>
  (useProposals().data?.filter(waits).length ?? 0) + (useRequests().data?.filter(isAsked).length ?? 0);

/** Proposals about an event that are not decided. */
export const useProposalsOf = (eventId: string): Proposal[] =>
  useProposals().data?.filter((p) => p.eventId === eventId && isUndecided(p)) ?? [];
