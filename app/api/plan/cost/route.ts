import { operations, runtime } from '../../../../server/index.ts';
import { taken } from '../../current.ts';
import { answer, guarded, readJson } from '../../guard.ts';
import { planBeside } from '../../shapes.ts';

/** What the cores of a plan, and of the others in the build, would take of what the design leaves. */
export const POST = guarded(async (request) => {
  const { plan, others } = await readJson(request, planBeside);
  return answer(taken(await operations.planCostNow(await runtime(), plan, others)));
});
