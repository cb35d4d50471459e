'use client';
import { useQuery } from '@tanstack/react-query';
import { useMemo } from 'react';
import { parsePinTable } from '../../core/constraints/index.ts';
import { api } from './ask.ts';
import { useFiles } from './files.ts';
import { useLive } from './live.tsx';

/** The settings of the project and the text of its board's description. */
export function useProject() {
  const project = useLive('project')?.project?.id ?? 0;
  return useQuery({
    queryKey: ['project', project],
    enabled: project > 0,
    queryFn: () => api.project.settings.query(),
  });
}

/** The ports of the open design by the pins they are on. */
export function usePortsOnPins(): ReadonlyMap<string, string> {
  const pins = useProject().data?.file.pins;
  const text = useFiles().data?.find(({ name }) => name === pins)?.text ?? '';
  return useMemo(() => new Map(parsePinTable(text).map(({ name, pin }) => [pin, name])), [text]);
}
