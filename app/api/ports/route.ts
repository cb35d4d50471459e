import { current, taken } from '../current.ts';
import { answer, guarded } from '../guard.ts';

export const dynamic = 'force-dynamic';

/** The ports and modules of the design as its sources stand, without a build. */
export const GET = guarded(async () => {
  const { on, project } = await current();
  return answer(await on.pricing.ports(taken(await on.store.projects.open(project.id))));
});
