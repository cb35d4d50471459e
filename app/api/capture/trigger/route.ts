import { z } from 'zod';
import { server } from '../../../../server/index.ts';
import { answer, failure, guarded, readJson } from '../../guard.ts';

/** Triggers an armed recorder by hand. */
export const POST = guarded(async (request) => {
  const { recorder } = await readJson(request, z.object({ recorder: z.string() }));
  const done = await (await server()).desks.capture.triggerNow(recorder);
  return done.ok ? answer({ id: done.value }) : failure(done.error);
});
