import { useQuery } from '@tanstack/react-query';
import { api } from '../api/client';

/** What does not go together in the time ahead. */
export const useChecks = () => useQuery({ queryKey: ['checks'], queryFn: api.checks, staleTime: 60_000 });

/** How many of them nobody has accepted. */
export const useOpenChecks = (): number => useChecks().data?.clashes.filter((c) => c.accepted === null).length ?? 0;
