import { operations, runtime } from '../../../../server/index.ts';
import { taken } from '../../current.ts';
import { answer, guarded, readJson } from '../../guard.ts';
import { planBeside } from '../../shapes.ts';

/** What of a plan it would be enough to give up where it does not fit; null where nothing is. */
export const POST = guarded(async (request) => {
  const { plan, others } = await readJson(request, planBeside);
  return answer(taken(await operations.cheaperPlanNow(await runtime(), plan, others)));
});
