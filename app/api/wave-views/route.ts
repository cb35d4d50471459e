import { z } from 'zod';
import { waveView } from '../../../core/wave/index.ts';
import { server } from '../../../server/index.ts';
import { answer, guarded, readJson } from '../guard.ts';

export const dynamic = 'force-dynamic';

/** Views of the current project by name. */
export const GET = guarded(async () => {
  const on = await server();
  const project = await on.store.projects.current();
  return answer(project ? await on.store.captures.views(project.id) : []);
});

/** Saves one; null forgets it. */
export const PUT = guarded(async (request) => {
  const { name, view } = await readJson(
    request,
    z.object({ name: z.string().trim().min(1).max(60), view: waveView.nullable() }),
  );
  const on = await server();
  const project = await on.store.projects.current();
  if (project) await on.store.captures.saveNamedView(project.id, name, view);
  return answer({});
});
