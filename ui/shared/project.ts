'use client';
import { useQuery } from '@tanstack/react-query';
import { useMemo } from 'react';
import { PROJECT_FILE } from '../../core/build/index.ts';
import { parsePinTable } from '../../core/constraints/index.ts';
import { api } from './ask.ts';
import { useFiles } from './files.ts';
import { useLive } from './live.tsx';

type Settings = Awaited<ReturnType<typeof api.project.settings.query>>;

/** The settings of the project and the text of its board's description, anew when one of these files is another one. */
export function useProject() {
  const state = useLive('project', 'files');
  const project = state?.project?.id ?? 0;
  const versions = Object.entries(state?.files ?? {})
    .filter(([name]) => name === PROJECT_FILE || name.endsWith('.board.json'))
    .map(([name, version]) => `${name} ${version}`)
    .join();
  return useQuery({
    queryKey: ['project', project, versions],
    enabled: project > 0,
    placeholderData: (before: Settings | undefined, query) => (query?.queryKey[1] === project ? before : undefined),
    queryFn: () => api.project.settings.query(),
  });
}

/** The ports of the open design by the pins they are on. */
export function usePortsOnPins(): ReadonlyMap<string, string> {
  const pins = useProject().data?.file.pins;
  const text = useFiles().data?.find(({ name }) => name === pins)?.text ?? '';
  return useMemo(() => new Map(parsePinTable(text).map(({ name, pin }) => [pin, name])), [text]);
}
