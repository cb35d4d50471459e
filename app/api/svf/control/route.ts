import { z } from 'zod';
import { server } from '../../../../server/index.ts';
import { answer, guarded, readJson } from '../../guard.ts';

/** The hand on the player. */
export const POST = guarded(async (request) => {
  const { action, pauseAt } = await readJson(
    request,
    z.object({
      action: z.enum(['pause', 'go', 'step']),
      pauseAt: z.number().int().positive().nullable().default(null),
    }),
  );
  (await server()).svf.control(action, pauseAt);
  return answer({});
});
