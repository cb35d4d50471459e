import { z } from 'zod';
import { runtime } from '../../../server/index.ts';
import { answer, guarded, readJson } from '../guard.ts';
import { loadStep } from '../shapes.ts';

const body = z.object({ steps: z.array(loadStep).min(1).max(100), verify: z.boolean() });

/** What Load is to put where. */
export const PUT = guarded(async (request) => {
  const plan = await readJson(request, body);
  const server = await runtime();
  await server.facts.set('loadPlan', plan);
  server.changed();
  return answer(plan);
});
