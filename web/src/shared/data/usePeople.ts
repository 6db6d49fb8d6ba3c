import { useQuery } from '@tanstack/react-query';
import { api } from '../api/client';

/** The school’s people, groups and open invitations. */
export const usePeople = (enabled = true) =>
  useQuery({ queryKey: ['people'], queryFn: api.people, staleTime: 30_000, enabled });
