import { z } from 'zod';
import { server } from '../../../server/index.ts';
import { answer, guarded, readJson } from '../guard.ts';
import { loadStep } from '../shapes.ts';

const body = z.object({ steps: z.array(loadStep).min(1).max(100), verify: z.boolean() });

/** What Load is to put where. */
export const PUT = guarded(async (request) => {
  const plan = await readJson(request, body);
  const on = await server();
  await on.facts.set('loadPlan', plan);
  on.state.changed();
  return answer(plan);
});
