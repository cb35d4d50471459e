'use client';
import { useQuery } from '@tanstack/react-query';
import type { Migrated, ProjectFile, SourcePorts } from '../../core/build/index.ts';
import type { ProbeMap } from '../../core/probes/index.ts';
import type { BuildDetails } from '../../server/index.ts';
import { fetched, useFiles, useLive } from '../shared/index.ts';

interface BuildRow {
  readonly id: number;
  readonly created: string;
  readonly good: boolean;
  readonly details: BuildDetails;
}

/** The settings of the project and the text of its board's description. */
export function useProject() {
  const project = useLive('project')?.project?.id ?? 0;
  return useQuery({
    queryKey: ['project', project],
    enabled: project > 0,
    queryFn: () => fetched<{ file: ProjectFile; board: string | null; migrated: Migrated | null }>('/api/project'),
  });
}

/** The ports of the design as its sources stand, read anew when a file was saved. */
export function useSourcePorts() {
  const state = useLive('project');
  const files = useFiles().data ?? [];
  return (
    useQuery({
      queryKey: ['ports', state?.project?.id ?? 0, files.map(({ name, changed }) => `${name} ${changed}`).join()],
      enabled: state !== null && files.length > 0,
      placeholderData: (before: SourcePorts | undefined, query) =>
        query?.queryKey[1] === (state?.project?.id ?? 0) ? before : undefined,
      queryFn: () => fetched<SourcePorts>('/api/ports'),
    }).data ?? null
  );
}

/** The newest build in full, and the newest usable one. Asked for again whenever another build has ended. */
export function useBuilds() {
  const state = useLive('project', 'latest');
  return useQuery({
    queryKey: ['build', state?.project?.id ?? 0, state?.latest?.id ?? 0],
    enabled: state !== null,
    placeholderData: (before) => before,
    queryFn: () => fetched<{ latest: BuildRow | null; usable: BuildRow | null }>('/api/build'),
  });
}

/**
 * The debug cores that are spoken to: those of what runs, where it was built elsewhere and its map is here, else those
 * of the newest usable build. `note` says what is missing for a design that runs and has cores nobody here knows.
 */
export function useProbes(): { readonly probes: ProbeMap | null; readonly note: string | null } {
  const foreign = useLive('foreign')?.foreign ?? null;
  const built = useBuilds().data?.usable?.details.probes ?? null;
  const print = foreign?.fingerprint.slice(0, 8) ?? '';
  if (foreign?.map)
    return {
      probes: foreign.map,
      note: `Build ${print} runs, which was not built in this project; its debug cores are known from ${foreign.name}.`,
    };
  return {
    probes: built,
    note: foreign
      ? `Build ${print} runs, which was not built in this project. To use its debug cores, give the .probes.json that was written beside it under Load, "Load a file".`
      : null,
  };
}
