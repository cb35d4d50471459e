'use client';
import { useQuery } from '@tanstack/react-query';
import type { BuildDetails } from '../../server/index.ts';
import { ask, useLive } from '../shared/index.ts';

export interface SourceFile {
  readonly name: string;
  readonly text: string;
  readonly changed: string;
}

export interface BuildRow {
  readonly id: number;
  readonly created: string;
  readonly good: boolean;
  readonly details: BuildDetails;
}

export function useFiles() {
  return useQuery({
    queryKey: ['files'],
    queryFn: async () => {
      const answer = await ask<SourceFile[]>('/api/files');
      return answer.ok ? answer.value : [];
    },
  });
}

/** The newest build in full, and the newest usable one. Asked for again whenever another build has ended. */
export function useBuilds() {
  const state = useLive();
  return useQuery({
    queryKey: ['build', state?.latest?.id ?? 0],
    enabled: state !== null,
    placeholderData: (before) => before,
    queryFn: async () => {
      const answer = await ask<{ latest: BuildRow | null; usable: BuildRow | null }>('/api/build');
      return answer.ok ? answer.value : { latest: null, usable: null };
    },
  });
}
