import { problem } from '../../../core/result.ts';
import { planShelf } from '../../../core/probes/index.ts';
import { server } from '../../../server/index.ts';
import { answer, failure, guarded, readJson } from '../guard.ts';

export const dynamic = 'force-dynamic';

export const GET = guarded(async () => {
  const on = await server();
  const project = await on.store.projects.current();
  return project
    ? answer(await on.store.projects.shelf(project.id))
    : failure(problem('no-project', 'There is no project.', 'Start the product with its demo.'), 404);
});

export const PUT = guarded(async (request) => {
  const shelf = await readJson(request, planShelf);
  const on = await server();
  const project = await on.store.projects.current();
  if (!project) return failure(problem('no-project', 'There is no project.', 'Start the product with its demo.'), 404);
  await on.store.projects.saveShelf(project.id, shelf);
  on.state.changed();
  return answer({});
});
