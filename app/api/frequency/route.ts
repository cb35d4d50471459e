import { z } from 'zod';
import { server } from '../../../server/index.ts';
import { answer, guarded, readJson } from '../guard.ts';

/** Sets TCK. */
export const PUT = guarded(async (request) => {
  const { hz } = await readJson(request, z.object({ hz: z.number().positive().max(1e9) }));
  const on = await server();
  await on.board.cable((chain) => chain.cable.setFrequency(hz));
  on.state.changed();
  return answer({ hz: on.board.tckHz });
});
