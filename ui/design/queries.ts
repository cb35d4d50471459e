'use client';
import { useQuery } from '@tanstack/react-query';
import type { SourcePorts } from '../../core/build/index.ts';
import type { ProbeMap } from '../../core/probes/index.ts';
import { useFiles, useLive, api } from '../shared/index.ts';

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
      queryFn: () => api.design.ports.query(),
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
    queryFn: () => api.design.newest.query(),
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
      ? `Build ${print} runs, which was not built in this project. To use its debug cores, give the .probes.json ` +
        'that was written beside it under Load, "Load a file".'
      : null,
  };
}
