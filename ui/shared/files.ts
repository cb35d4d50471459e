'use client';
import { useQuery } from '@tanstack/react-query';
import { ask } from './ask.ts';
import { useLive } from './live.tsx';

export interface SourceFile {
  readonly name: string;
  readonly text: string;
  readonly changed: string;
}

/** The files of the current project. */
export function useFiles() {
  const project = useLive('project')?.project?.id ?? 0;
  return useQuery({
    queryKey: ['files', project],
    enabled: project > 0,
    queryFn: async () => {
      const answer = await ask<SourceFile[]>('/api/files');
      return answer.ok ? answer.value : [];
    },
  });
}
