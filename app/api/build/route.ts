import { server } from '../../../server/index.ts';
import { answer, guarded } from '../guard.ts';

export const dynamic = 'force-dynamic';

/** Messages, signals and probes of the newest build, and of the newest one that has a bitstream. */
export const GET = guarded(async () => {
  const on = await server();
  const project = await on.store.projects.current();
  if (!project) return answer({ latest: null, usable: null });
  const [latest, usable] = [await on.store.builds.latest(project.id), await on.store.builds.latestGood(project.id)];
  return answer({ latest, usable });
});
