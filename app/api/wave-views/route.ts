import { z } from 'zod';
import { waveView } from '../../../core/wave/index.ts';
import { runtime } from '../../../server/index.ts';
import { answer, guarded, readJson } from '../guard.ts';

export const dynamic = 'force-dynamic';

/** Views of the current project by name. */
export const GET = guarded(async () => {
  const server = await runtime();
  const project = await server.projects.current();
  return answer(project ? await server.captures.views(project.id) : []);
});

/** Saves one; null forgets it. */
export const PUT = guarded(async (request) => {
  const { name, view } = await readJson(
    request,
    z.object({ name: z.string().trim().min(1).max(60), view: waveView.nullable() }),
  );
  const server = await runtime();
  const project = await server.projects.current();
  if (project) await server.captures.saveNamedView(project.id, name, view);
  return answer({});
});
