import { ProblemError } from '../../../../core/result.ts';
import { operations, runtime } from '../../../../server/index.ts';
import { taken } from '../../current.ts';
import { answer, guarded, readJson } from '../../guard.ts';
import { planBeside } from '../../shapes.ts';

/** What of a plan it would be enough to give up where it does not fit; null where nothing is. */
export const POST = guarded(async (request) => {
  const { plan, others } = await readJson(request, planBeside);
  const server = await runtime();
  try {
    return answer(taken(await operations.cheaperPlanNow(server, plan, others)));
  } catch (error) {
    // Nothing is wrong: a newer plan is being priced instead.
    if (error instanceof ProblemError && error.problem.code === 'superseded') return answer({ superseded: true });
    throw error;
  }
});
