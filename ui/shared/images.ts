'use client';
import { useQuery } from '@tanstack/react-query';
import type { ImageRow, Kept } from '../../server/index.ts';
import { api } from './ask.ts';

/** Files that were added for Load and Keep, newest first. */
export function useImages(): readonly ImageRow[] {
  const answer = useQuery({ queryKey: ['images'], queryFn: () => api.load.images.query() }).data;
  return answer ?? [];
}

/** How many there are, and how many there may be; null until that is known. */
export function useImagesKept(): Kept | null {
  return useQuery({ queryKey: ['images', 'kept'], queryFn: () => api.load.imagesKept.query() }).data ?? null;
}
