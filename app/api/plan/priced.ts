import type { z } from 'zod';
import { ProblemError, type Result } from '../../../core/result.ts';
import { type Server, server } from '../../../server/index.ts';
import { taken } from '../current.ts';
import { answer, guarded, readJson } from '../guard.ts';
import { planBeside } from '../shapes.ts';

type Asked = z.infer<typeof planBeside>;

/**
 * A question about a plan that is being put together; of plans that change faster than they are priced the newest
 * counts.
 */
export const priced = (ask: (on: Server, plan: Asked['plan'], others: Asked['others']) => Promise<Result<unknown>>) =>
  guarded(async (request) => {
    const { plan, others } = await readJson(request, planBeside);
    try {
      return answer(taken(await ask(await server(), plan, others)));
    } catch (error) {
      // Nothing is wrong: a newer plan is being priced instead.
      if (error instanceof ProblemError && error.problem.code === 'superseded') return answer({ superseded: true });
      throw error;
    }
  });
