import { z } from 'zod';
import { runtime } from '../../../server/index.ts';
import { answer, guarded, readJson } from '../guard.ts';

/** Sets TCK. */
export const PUT = guarded(async (request) => {
  const { hz } = await readJson(request, z.object({ hz: z.number().positive().max(1e9) }));
  const server = await runtime();
  await server.pod.cable((chain) => chain.cable.setFrequency(hz));
  server.changed();
  return answer({ hz: server.pod.tckHz });
});
