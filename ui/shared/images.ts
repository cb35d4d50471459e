'use client';
import { useQuery } from '@tanstack/react-query';
import type { ImageRow } from '../../server/index.ts';
import { api } from './ask.ts';

/** Files that were added for Load and Keep, newest first. */
export function useImages(): readonly ImageRow[] {
  const answer = useQuery({ queryKey: ['images'], queryFn: () => api.load.images.query() }).data;
  return answer ?? [];
}
