import { ProblemError } from '../../../../core/result.ts';
import { operations, runtime } from '../../../../server/index.ts';
import { taken } from '../../current.ts';
import { answer, guarded, readJson } from '../../guard.ts';
import { planBeside } from '../../shapes.ts';

/** What the cores of a plan, and of the others in the build, would take of what the design leaves. */
export const POST = guarded(async (request) => {
  const { plan, others } = await readJson(request, planBeside);
  const server = await runtime();
  try {
    return answer(taken(await operations.planCostNow(server, plan, others)));
  } catch (error) {
    // Nothing is wrong: a newer plan is being priced instead.
    if (error instanceof ProblemError && error.problem.code === 'superseded') return answer({ superseded: true });
    throw error;
  }
});
