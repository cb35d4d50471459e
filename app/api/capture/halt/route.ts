import { z } from 'zod';
import { operations, runtime } from '../../../../server/index.ts';
import { answer, failure, guarded, readJson } from '../../guard.ts';

/** Stops a recorder that has triggered, and keeps what it holds. */
export const POST = guarded(async (request) => {
  const { recorder } = await readJson(request, z.object({ recorder: z.string() }));
  const done = await operations.haltNow(await runtime(), recorder);
  return done.ok ? answer({ id: done.value }) : failure(done.error);
});
