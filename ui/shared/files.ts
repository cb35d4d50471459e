'use client';
import { type QueryClient, useIsMutating, useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useCallback, useEffect } from 'react';
import { toast } from 'sonner';
import { create } from 'zustand';
import type { Problem } from '../../core/result.ts';
import { answerOf, api } from './ask.ts';
import { useLive } from './live.tsx';

export interface SourceFile {
  readonly name: string;
  readonly text: string;
  readonly changed: string;
  /** What is saved has to be of this version on the server; empty for a file that is only here as yet. */
  readonly version: string;
  /** The version that came from elsewhere last: an editor that shows an older one has to begin anew. */
  readonly loaded: string;
  /** Versions that were saved over from here and that the server's events may still name. */
  readonly replaced: readonly string[];
}

/** A text of this page that is not on the server yet. */
interface Unsaved {
  readonly project: number;
  readonly name: string;
  readonly text: string;
  /** Why the server did not take it; it stays here until somebody says which text is to be kept. */
  readonly refused: Problem | null;
}

const useUnsaved = create<{ readonly list: readonly Unsaved[] }>(() => ({ list: [] }));

const unsavedOf = (project: number, name: string): Unsaved | undefined =>
  useUnsaved.getState().list.find((one) => one.project === project && one.name === name);

function setUnsaved(project: number, name: string, change: Unsaved | null): void {
  const others = useUnsaved.getState().list.filter((one) => one.project !== project || one.name !== name);
  useUnsaved.setState({ list: change ? [...others, change] : others });
}

const useProjectId = (): number => useLive('project')?.project?.id ?? 0;
const keyOf = (project: number) => ['files', project] as const;
const heldBy = (queries: QueryClient, project: number): readonly SourceFile[] =>
  queries.getQueryData<readonly SourceFile[]>(keyOf(project)) ?? [];

/** The files of the current project, with what was changed here and is not saved yet. */
export function useFiles() {
  const project = useProjectId();
  const queries = useQueryClient();
  return useQuery({
    queryKey: keyOf(project),
    enabled: project > 0,
    queryFn: async () => {
      const files = await api.project.files.query(undefined, { context: { project } });
      const held = heldBy(queries, project);
      const only = held.filter(({ name }) => unsavedOf(project, name) && files.every((file) => file.name !== name));
      return [
        ...files.map((file): SourceFile => {
          const before = held.find(({ name }) => name === file.name);
          if (before && unsavedOf(project, file.name)) return before;
          const same = before?.version === file.version;
          return { ...file, loaded: same ? before.loaded : file.version, replaced: same ? before.replaced : [] };
        }),
        ...only,
      ];
    },
  });
}

interface Saving {
  /** Shows a text at once, here, of a new file too; `save` puts it on the server. */
  readonly keep: (name: string, text: string) => void;
  /** True when the server has the text; what is wrong otherwise is shown. */
  readonly save: (name: string, over?: boolean) => Promise<boolean>;
  /** Leaves the text that was changed here for the one on the server. */
  readonly drop: (name: string) => Promise<void>;
}

const NEW = { version: '', loaded: '', replaced: [] } as const;

const change = (queries: QueryClient, project: number, name: string, part: Partial<SourceFile>) =>
  queries.setQueryData<readonly SourceFile[]>(keyOf(project), (old) =>
    old?.map((file) => (file.name === name ? { ...file, ...part } : file)),
  );

/** Puts what is unsaved of a file on the server; false when it was refused, now or before. */
async function put(
  queries: QueryClient,
  project: number,
  { name, over }: { readonly name: string; readonly over: boolean },
): Promise<boolean> {
  const edit = unsavedOf(project, name);
  if (!edit) return true;
  if (edit.refused && !over) return false;
  const { text } = edit;
  const { version, replaced } = heldBy(queries, project).find((file) => file.name === name) ?? NEW;
  const isNew = version === '';
  const about = { context: { project } };
  const answer = await answerOf(
    isNew
      ? api.project.addFiles.mutate({ files: [{ name, text }] }, about).then(() => version)
      : api.project.saveFile.mutate({ name, text, read: over ? null : version }, about).then((saved) => saved.version),
  );
  const now = unsavedOf(project, name);
  if (!answer.ok) {
    if (now) setUnsaved(project, name, { ...now, refused: answer.problem });
    return false;
  }
  if (!isNew) change(queries, project, name, { version: answer.value, replaced: [...replaced, version] });
  if (now) setUnsaved(project, name, now.text === text ? null : { ...now, refused: null });
  if (isNew) await queries.invalidateQueries({ queryKey: keyOf(project) });
  return true;
}

/** Saving files of the current project, one after the other, each over the version that was read. */
export function useSaveFile(): Saving {
  const project = useProjectId();
  const queries = useQueryClient();
  const { mutateAsync } = useMutation({
    mutationKey: ['save'],
    scope: { id: 'files' },
    mutationFn: (wanted: { readonly name: string; readonly over: boolean }) => put(queries, project, wanted),
  });
  const keep = useCallback(
    (name: string, text: string) => {
      if (heldBy(queries, project).some((file) => file.name === name)) change(queries, project, name, { text });
      else
        queries.setQueryData<readonly SourceFile[]>(keyOf(project), (old) => [
          ...(old ?? []),
          { name, text, changed: '', ...NEW },
        ]);
      setUnsaved(project, name, { project, name, text, refused: unsavedOf(project, name)?.refused ?? null });
    },
    [project, queries],
  );
  const save = useCallback((name: string, over = false) => mutateAsync({ name, over }), [mutateAsync]);
  const drop = useCallback(
    async (name: string) => {
      setUnsaved(project, name, null);
      await queries.invalidateQueries({ queryKey: keyOf(project) });
    },
    [project, queries],
  );
  return { keep, save, drop };
}

/** Texts the server did not take, with the reason. */
export function useRefused(): readonly { readonly name: string; readonly refused: Problem }[] {
  const project = useProjectId();
  return useUnsaved(({ list }) => list).flatMap(({ name, refused, project: of }) =>
    refused && of === project ? [{ name, refused }] : [],
  );
}

/** Reads the files again when they were changed elsewhere: in another window, by an operation. Once a page. */
export function useFollowFiles(): void {
  const versions = useLive('files')?.files;
  const project = useProjectId();
  const queries = useQueryClient();
  const saving = useIsMutating({ mutationKey: ['save'] }) > 0;
  useEffect(() => {
    const held = queries.getQueryData<readonly SourceFile[]>(keyOf(project));
    if (!held || !versions || saving) return;
    const clean = held.filter(({ name }) => !unsavedOf(project, name));
    for (const { name, version, replaced } of held)
      if (replaced.length > 0 && versions[name] === version) change(queries, project, name, { replaced: [] });
    const changed = clean.filter(({ name, version, replaced }) => {
      const there = versions[name];
      return there !== undefined && there !== version && !replaced.includes(there);
    });
    const other = clean.some(({ name }) => !(name in versions)) || Object.keys(versions).length !== held.length;
    if (changed.length === 0 && !other) return;
    void queries.invalidateQueries({ queryKey: keyOf(project) });
    for (const { name } of changed) toast(`${name} was changed elsewhere; it is shown as it is now.`);
  }, [versions, project, queries, saving]);
}
