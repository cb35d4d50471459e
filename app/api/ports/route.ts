import { current, taken } from '../current.ts';
import { answer, guarded } from '../guard.ts';

export const dynamic = 'force-dynamic';

/** The ports and modules of the design as its sources stand, without a build. */
export const GET = guarded(async () => {
  const { server, project } = await current();
  return answer(await server.pricing.ports(taken(await server.projects.open(project.id))));
});
