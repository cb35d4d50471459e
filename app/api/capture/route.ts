import { z } from 'zod';
import { server } from '../../../server/index.ts';
import { answer, failure, guarded, readJson } from '../guard.ts';

/** Arms a recorder. */
export const POST = guarded(async (request) => {
  const wanted = await readJson(
    request,
    z.object({
      recorder: z.string(),
      when: z.string().max(2000),
      keep: z.string().max(2000).optional(),
      before: z.number().int(),
      segments: z.number().int().optional(),
      repeat: z.enum(['once', 'every', 'different']).optional(),
    }),
  );
  const started = await (await server()).desks.capture.capture(wanted);
  return started.ok ? answer({ id: started.value }) : failure(started.error);
});
