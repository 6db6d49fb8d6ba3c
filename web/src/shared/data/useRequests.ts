import { useQuery } from '@tanstack/react-query';
import { api, type OpeningRequest } from '../api/client';

/** What the person asks keepers to open, and what is asked of them. */
export const useRequests = () =>
  useQuery({ queryKey: ['opening-requests'], queryFn: api.openingRequests, staleTime: 30_000 });

/** Whether the person can answer it. */
export const isAsked = (request: OpeningRequest): boolean => request.mayAnswer;
