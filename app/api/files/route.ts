import { z } from 'zod';
import { problem } from '../../../core/result.ts';
import { runtime } from '../../../server/index.ts';
import { answer, failure, guarded, readJson } from '../guard.ts';

export const dynamic = 'force-dynamic';

const noProject = () => failure(problem('no-project', 'There is no project.', 'Start the product with its demo.'), 404);

export const GET = guarded(async () => {
  const server = await runtime();
  const project = await server.projects.current();
  return project ? answer(await server.projects.files(project.id)) : noProject();
});

export const PUT = guarded(async (request) => {
  const { name, text } = await readJson(request, z.object({ name: z.string(), text: z.string() }));
  const server = await runtime();
  const project = await server.projects.current();
  if (!project) return noProject();
  if (!(await server.projects.save(project.id, name, text))) return failure(problem('no-file', `The project has no file "${name}".`, 'Reload the page.'), 404);
  server.changed();
  return answer({});
});
