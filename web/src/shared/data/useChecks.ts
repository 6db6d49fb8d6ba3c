import { useQuery } from '@tanstack/react-query';
import { api, type Clash } from '../api/client';

/** Whether it is told only so that one sees what was made of it: nothing is to be mended. */
export const isMeant = (clash: Clash): boolean => clash.kind === 'testInLesson';

/** What does not go together in the time ahead. */
export const useChecks = () => useQuery({ queryKey: ['checks'], queryFn: api.checks, staleTime: 60_000 });

/** How many of them nobody has accepted. */
export const useOpenChecks = (): number =>
  useChecks().data?.clashes.filter((c) => c.accepted === null && !isMeant(c)).length ?? 0;
