import { z } from 'zod';
import { DESIGN_JOBS } from '../jobs/index.ts';
import { digestOf, migrationOf, PROJECT_FILE, type ProjectFile, projectFile } from '../../core/build/index.ts';
import { ProblemError, taken } from '../../core/result.ts';
import { problem } from './problems.ts';
import { newProject } from '../project/index.ts';
import { call, DONE, inProject, router } from './procedures.ts';

const id = z.object({ id: z.number().int() });
const title = z.string().trim().min(1).max(100);
const named = z.object({ name: z.string() });
const renaming = z.object({ from: z.string(), to: z.string() });

/** Null takes a setting away; one that is not given stays. */
const optional = z.string().nullable().optional();

/** Settings with those that may be missing changed. */
function withOptional(
  { top, board, package: packageName, ...others }: ProjectFile,
  change: { readonly [K in 'top' | 'board' | 'package']: string | null | undefined },
): ProjectFile {
  const now = {
    top: change.top === undefined ? top : change.top,
    board: change.board === undefined ? board : change.board,
  };
  const inCase = change.package === undefined ? packageName : change.package;
  return {
    ...others,
    ...(now.top ? { top: now.top } : {}),
    ...(now.board ? { board: now.board } : {}),
    ...(inCase ? { package: inCase } : {}),
  };
}

const gone = () => new ProblemError(problem('no-project (gone)'));

/** Projects, their settings and their files. */
export const project = router({
  list: call.query(async ({ ctx: { on } }) => ({
    projects: await on.store.projects.list(),
    current: (await on.store.projects.current())?.id ?? null,
  })),

  /** Makes a project with a first source in it, and opens it. */
  create: call
    .input(z.object({ name: title, part: z.string().max(100) }))
    .mutation(async ({ ctx: { on }, input: { name, part } }) => {
      const made = await on.store.projects.create(name, taken(newProject(name, part)));
      on.state.changed();
      return { id: made };
    }),

  open: call.input(id).mutation(async ({ ctx: { on }, input }) => {
    if (!(await on.store.projects.makeCurrent(input.id))) throw gone();
    on.state.changed();
    return { id: input.id };
  }),

  /** Makes a copy and opens that. */
  duplicate: call.input(id.extend({ name: title })).mutation(async ({ ctx: { on }, input }) => {
    const copy = await on.store.projects.duplicate(input.id, input.name);
    if (copy === null) throw gone();
    on.state.changed();
    return { id: copy };
  }),

  remove: call.input(id).mutation(async ({ ctx: { on }, input }) => {
    // What they would still find could not be kept any more. A capture lets go when the cable is free.
    on.jobs.cancelAll(input.id, ['capture']);
    await on.jobs.endAll(input.id, DESIGN_JOBS);
    if (!(await on.store.projects.remove(input.id))) throw gone();
    await on.facts.forgetProject(input.id);
    on.state.changed();
    return DONE;
  }),

  /** What nimble.json says, and the board it names. */
  settings: inProject.query(async ({ ctx: { on, project } }) => {
    const { file, files } = taken(await on.store.projects.open(project.id));
    const text = (await on.store.projects.files(project.id)).find(({ name }) => name === PROJECT_FILE)?.text ?? '';
    return { file, migrated: migrationOf(text), board: files.find((f) => f.name === file.board)?.text ?? null };
  }),

  /** Changes settings; those not given stay. A value of null takes an optional setting away. */
  change: inProject
    .input(
      projectFile
        .pick({ name: true, part: true, grade: true, pins: true, clocks: true, parameters: true })
        .partial()
        .extend({ top: optional, board: optional, package: optional }),
    )
    .mutation(async ({ ctx: { on, project }, input: { top, board, package: packageName, ...rest } }) => {
      taken(
        await on.store.projects.change(project.id, (file) => {
          const given = Object.fromEntries(Object.entries(rest).filter(([, value]) => value !== undefined));
          const next = { ...withOptional(file, { top, board, package: packageName }), ...given };
          // None given is as good as none there, and the file stays short.
          if (Object.keys(next.parameters ?? {}).length === 0) delete next.parameters;
          return next;
        }),
      );
      on.state.changed();
      return DONE;
    }),

  files: inProject.query(({ ctx: { on, project } }) => on.store.projects.files(project.id)),

  /** Saves a file that is there over the version that was read; null saves over whatever is there. */
  saveFile: inProject
    .input(named.extend({ text: z.string(), read: z.string().nullable() }))
    .mutation(async ({ ctx: { on, project }, input: { name, text, read } }) => {
      const version = taken(await on.store.projects.save(project.id, name, text, read));
      on.state.changed();
      return { version };
    }),

  /** Puts files in, over those of the same name; answers with their versions, in order. */
  addFiles: inProject
    .input(
      z.object({
        files: z
          .array(named.extend({ text: z.string() }))
          .min(1)
          .readonly(),
      }),
    )
    .mutation(async ({ ctx: { on, project }, input }) => {
      taken(await on.store.projects.put(project.id, input.files));
      on.state.changed();
      return { versions: input.files.map(({ text }) => digestOf(text)) };
    }),

  renameFile: inProject.input(renaming).mutation(async ({ ctx: { on, project }, input: { from, to } }) => {
    taken(await on.store.projects.renameFile(project.id, from, to));
    on.state.changed();
    return DONE;
  }),

  removeFile: inProject.input(named).mutation(async ({ ctx: { on, project }, input: { name } }) => {
    if (!(await on.store.projects.removeFile(project.id, name))) throw new ProblemError(problem('no-file', { name }));
    on.state.changed();
    return DONE;
  }),
});
