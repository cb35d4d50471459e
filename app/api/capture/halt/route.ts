import { z } from 'zod';
import { server } from '../../../../server/index.ts';
import { answer, failure, guarded, readJson } from '../../guard.ts';

/** Stops a recorder that has triggered, and keeps what it holds. */
export const POST = guarded(async (request) => {
  const { recorder } = await readJson(request, z.object({ recorder: z.string() }));
  const done = await (await server()).desks.capture.haltNow(recorder);
  return done.ok ? answer({ id: done.value }) : failure(done.error);
});
