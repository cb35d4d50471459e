import { server } from '../../../server/index.ts';
import { answer, guarded } from '../guard.ts';

export const dynamic = 'force-dynamic';

export const GET = guarded(async () => {
  const on = await server();
  const project = await on.store.projects.current();
  return answer(project ? await on.store.captures.list(project.id) : []);
});
