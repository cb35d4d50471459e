import { runtime } from '../../../server/index.ts';
import { answer, guarded } from '../guard.ts';

export const dynamic = 'force-dynamic';

/** Messages, signals and probes of the newest build, and of the newest one that has a bitstream. */
export const GET = guarded(async () => {
  const server = await runtime();
  const project = await server.projects.current();
  if (!project) return answer({ latest: null, usable: null });
  const [latest, usable] = [await server.builds.latest(project.id), await server.builds.latestGood(project.id)];
  return answer({ latest, usable });
});
