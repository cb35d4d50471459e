import { z } from 'zod';
import { ProblemError, problem } from '../../../../core/result.ts';
import { server } from '../../../../server/index.ts';
import { answer, guarded, readJson } from '../../guard.ts';

type Context = { params: Promise<{ id: string }> };

const gone = () => new ProblemError(problem('no-project', 'There is no such project any more.', 'Reload the page.'));

/** Opens a project, or makes a copy and opens that. */
export const POST = guarded(async (request, { params }: Context) => {
  const wanted = await readJson(
    request,
    z.discriminatedUnion('do', [
      z.object({ do: z.literal('open') }),
      z.object({ do: z.literal('duplicate'), name: z.string().trim().min(1).max(100) }),
    ]),
  );
  const on = await server();
  const id = Number((await params).id);
  const done =
    wanted.do === 'open'
      ? (await on.store.projects.makeCurrent(id)) && id
      : await on.store.projects.duplicate(id, wanted.name);
  if (!done) throw gone();
  on.state.changed();
  return answer({ id: done });
});

export const DELETE = guarded(async (_request, { params }: Context) => {
  const on = await server();
  if (!(await on.store.projects.remove(Number((await params).id)))) throw gone();
  on.state.changed();
  return answer({});
});
