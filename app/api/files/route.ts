import { z } from 'zod';
import { ProblemError, problem } from '../../../core/result.ts';
import { current, taken } from '../current.ts';
import { answer, guarded, readJson } from '../guard.ts';

export const dynamic = 'force-dynamic';

const named = z.object({ name: z.string() });

export const GET = guarded(async () => {
  const { on, project } = await current();
  return answer(await on.store.projects.files(project.id));
});

/** Saves a file that is there over the version that was read; null saves over whatever is there. */
export const PUT = guarded(async (request) => {
  const { name, text, read } = await readJson(request, named.extend({ text: z.string(), read: z.string().nullable() }));
  const { on, project } = await current();
  const version = taken(await on.store.projects.save(project.id, name, text, read));
  on.state.changed();
  return answer({ version });
});

/** Adds files, or renames one. */
export const POST = guarded(async (request) => {
  const wanted = await readJson(
    request,
    z.union([
      z.object({ files: z.array(named.extend({ text: z.string() })).min(1) }),
      z.object({ from: z.string(), to: z.string() }),
    ]),
  );
  const { on, project } = await current();
  taken(
    'files' in wanted
      ? await on.store.projects.put(project.id, wanted.files)
      : await on.store.projects.renameFile(project.id, wanted.from, wanted.to),
  );
  on.state.changed();
  return answer({});
});

export const DELETE = guarded(async (request) => {
  const { name } = await readJson(request, named);
  const { on, project } = await current();
  if (!(await on.store.projects.removeFile(project.id, name)))
    throw new ProblemError(
      problem(
        'no-file',
        `"${name}" cannot be deleted.`,
        'nimble.json belongs to every project; other files may be gone already: reload the page.',
      ),
    );
  on.state.changed();
  return answer({});
});
