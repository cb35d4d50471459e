import { problem } from '../../../core/result.ts';
import { planShelf } from '../../../core/probes/index.ts';
import { runtime } from '../../../server/index.ts';
import { answer, failure, guarded, readJson } from '../guard.ts';

export const dynamic = 'force-dynamic';

export const GET = guarded(async () => {
  const server = await runtime();
  const project = await server.projects.current();
  return project
    ? answer(await server.projects.shelf(project.id))
    : failure(problem('no-project', 'There is no project.', 'Start the product with its demo.'), 404);
});

export const PUT = guarded(async (request) => {
  const shelf = await readJson(request, planShelf);
  const server = await runtime();
  const project = await server.projects.current();
  if (!project) return failure(problem('no-project', 'There is no project.', 'Start the product with its demo.'), 404);
  await server.projects.saveShelf(project.id, shelf);
  server.changed();
  return answer({});
});
