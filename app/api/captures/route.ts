import { runtime } from '../../../server/index.ts';
import { answer, guarded } from '../guard.ts';

export const dynamic = 'force-dynamic';

export const GET = guarded(async () => {
  const server = await runtime();
  const project = await server.projects.current();
  return answer(project ? await server.captures.list(project.id) : []);
});
