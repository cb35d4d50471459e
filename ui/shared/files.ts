'use client';
import { type QueryClient, useIsMutating, useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useCallback, useEffect, useRef } from 'react';
import { toast } from 'sonner';
import type { Problem } from '../../core/result.ts';
import type { JobOrder } from '../../server/index.ts';
import { answerOf, api, UNREACHED, useAct } from './ask.ts';
import { useLive, useReached } from './live.tsx';
import { setUnsaved, unsavedIn, unsavedOf, useUnsaved } from './unsaved.ts';

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
      const only = unsavedIn(project)
        .filter(({ name }) => files.every((file) => file.name !== name))
        .map(({ name, text }) => held.find((file) => file.name === name) ?? { name, text, changed: '', ...NEW });
      return [
        ...files.map((file): SourceFile => {
          const before = held.find(({ name }) => name === file.name);
          const edit = unsavedOf(project, file.name);
          if (before && edit) return before;
          // Typed before the page was closed, and never saved: it goes on where it was.
          if (edit) return { ...file, text: edit.text, version: edit.read, loaded: edit.read, replaced: [] };
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

const change = (queries: QueryClient, project: number, name: string, part: (file: SourceFile) => Partial<SourceFile>) =>
  queries.setQueryData<readonly SourceFile[]>(keyOf(project), (old) =>
    old?.map((file) => (file.name === name ? { ...file, ...part(file) } : file)),
  );

/** Puts what is unsaved of a file on the server; false when it was refused, now or before, or is not there yet. */
async function put(
  queries: QueryClient,
  project: number,
  { name, over }: { readonly name: string; readonly over: boolean },
): Promise<boolean> {
  const edit = unsavedOf(project, name);
  if (!edit) return true;
  if (edit.refused && !over) return false;
  const { text, read } = edit;
  // Over whatever is there, or over nothing where it was deleted meanwhile.
  const isNew = read === '' || over;
  const about = { context: { project } };
  const answer = await answerOf(
    isNew
      ? api.project.addFiles.mutate({ files: [{ name, text }] }, about).then(({ versions }) => versions[0] ?? read)
      : api.project.saveFile.mutate({ name, text, read }, about).then(({ version }) => version),
  );
  const now = unsavedOf(project, name);
  if (!answer.ok) {
    const waits = answer.problem.code === UNREACHED.code;
    if (now) setUnsaved(project, name, { ...now, waits, refused: waits ? null : answer.problem });
    return false;
  }
  const version = answer.value;
  if (!isNew) change(queries, project, name, ({ replaced }) => ({ version, replaced: [...replaced, read] }));
  if (now) setUnsaved(project, name, now.text === text ? null : { ...now, read: version, refused: null, waits: false });
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
      const file = heldBy(queries, project).find((one) => one.name === name);
      if (file) change(queries, project, name, () => ({ text }));
      else
        queries.setQueryData<readonly SourceFile[]>(keyOf(project), (old) => [
          ...(old ?? []),
          { name, text, changed: '', ...NEW },
        ]);
      const before = unsavedOf(project, name);
      const read = before?.read ?? file?.version ?? '';
      setUnsaved(project, name, { project, name, text, read, refused: before?.refused ?? null, waits: false });
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

/** Saves all that is typed and not saved, whichever view it was typed in; true when the server has it. */
function useSaveAll(): () => Promise<boolean> {
  const project = useProjectId();
  const { save } = useSaveFile();
  return useCallback(async () => {
    const saved = await Promise.all(unsavedIn(project).map(({ name }) => save(name)));
    return saved.every(Boolean);
  }, [project, save]);
}

/**
 * Starts work on what is on the page: all that was typed is saved before. Where something of it cannot be, that is said
 * and nothing is begun.
 */
export function useStart(): (order: JobOrder) => Promise<void> {
  const queries = useQueryClient();
  const project = useProjectId();
  const saveAll = useSaveAll();
  const { act } = useAct();
  return async (order) => {
    await sent(queries, SHELF_KEY);
    if (await saveAll()) await act(() => api.jobs.start.mutate(order, { context: { project } }));
    else
      toast.error('Nothing was begun: a file is not saved yet.', {
        description: 'It would be done with the text from before. See above the station for what stands in the way.',
      });
  };
}

/** Name of the changes that put plans of debug cores on the server. */
export const SHELF_KEY = ['shelf'] as const;

/** When all such changes that are on their way have been answered. */
async function sent(queries: QueryClient, mutationKey: readonly string[]): Promise<void> {
  while (queries.isMutating({ mutationKey: [...mutationKey] }) > 0)
    await new Promise<void>((resolve) => {
      const stop = queries.getMutationCache().subscribe(() => {
        stop();
        resolve();
      });
    });
}

/** Texts the server did not take, with the reason. */
export function useRefused(): readonly { readonly name: string; readonly refused: Problem }[] {
  const project = useProjectId();
  return useUnsaved(({ list }) => list).flatMap(({ name, refused, project: of }) =>
    refused && of === project ? [{ name, refused }] : [],
  );
}

/** Names of texts that are only here as yet: typed a moment ago, or waiting for the server to answer. */
export function useWaiting(): { readonly unsaved: readonly string[]; readonly waits: readonly string[] } {
  const project = useProjectId();
  const own = useUnsaved(({ list }) => list).filter((one) => one.project === project);
  return { unsaved: own.map(({ name }) => name), waits: own.flatMap(({ name, waits }) => (waits ? [name] : [])) };
}

/** Takes up what an earlier page left, and saves what waits as soon as the server answers. Once a page. */
export function useTakeUpUnsaved(): void {
  const project = useProjectId();
  const reached = useReached();
  const saveAll = useSaveAll();
  useEffect(() => void useUnsaved.persist.rehydrate(), []);
  const hasAny = useUnsaved(({ list }) => list.some((one) => one.project === project && !one.refused));
  // What is typed now is saved a moment later by where it is typed; this is for what nobody would save.
  const left = useRef(true);
  useEffect(() => {
    if (!reached) {
      left.current = true;
      return;
    }
    if (project === 0 || !left.current || !hasAny) return;
    left.current = false;
    void saveAll();
  }, [reached, project, hasAny, saveAll]);
}

/** For changes of this page that change a file of the project too: it is then not said to be changed elsewhere. */
export function useOwnChange(): <T>(call: () => Promise<T>) => Promise<T> {
  const project = useProjectId();
  const queries = useQueryClient();
  const { mutateAsync } = useMutation({
    mutationKey: ['save'],
    mutationFn: async (call: Promise<unknown>) => {
      await call;
      await queries.invalidateQueries({ queryKey: keyOf(project) });
    },
  });
  return async (call) => {
    const answer = call();
    await mutateAsync(answer);
    return answer;
  };
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
      if (replaced.length > 0 && versions[name] === version) change(queries, project, name, () => ({ replaced: [] }));
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
