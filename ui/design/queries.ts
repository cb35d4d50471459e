'use client';
import { useQuery } from '@tanstack/react-query';
import type { ProjectFile } from '../../core/build/index.ts';
import type { BuildDetails } from '../../server/index.ts';
import { ask, useLive } from '../shared/index.ts';

export interface BuildRow {
  readonly id: number;
  readonly created: string;
  readonly good: boolean;
  readonly details: BuildDetails;
}

/** The settings of the project and the text of its board's description. */
export function useProject() {
  const project = useLive()?.project?.id ?? 0;
  return useQuery({
    queryKey: ['project', project],
    enabled: project > 0,
    queryFn: async () => {
      const answer = await ask<{ file: ProjectFile; board: string | null }>('/api/project');
      return answer.ok ? answer.value : null;
    },
  });
}

/** The newest build in full, and the newest usable one. Asked for again whenever another build has ended. */
export function useBuilds() {
  const state = useLive();
  return useQuery({
    queryKey: ['build', state?.project?.id ?? 0, state?.latest?.id ?? 0],
    enabled: state !== null,
    placeholderData: (before) => before,
    queryFn: async () => {
      const answer = await ask<{ latest: BuildRow | null; usable: BuildRow | null }>('/api/build');
      return answer.ok ? answer.value : { latest: null, usable: null };
    },
  });
}
