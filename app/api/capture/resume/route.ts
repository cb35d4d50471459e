import { z } from 'zod';
import { server } from '../../../../server/index.ts';
import { answer, failure, guarded, readJson } from '../../guard.ts';

/** Goes on with a recorder that was armed before. */
export const POST = guarded(async (request) => {
  const { recorder } = await readJson(request, z.object({ recorder: z.string() }));
  const done = await (await server()).desks.capture.resumeCapture(recorder);
  return done.ok ? answer({ id: done.value }) : failure(done.error);
});
