import { z } from 'zod';
import { server } from '../../../server/index.ts';
import { answer, failure, guarded, readJson } from '../guard.ts';

/** Moves levers (decimal text, null releases) and reads the panel; with nothing to move, only reads. */
export const POST = guarded(async (request) => {
  const { set } = await readJson(
    request,
    z.object({ set: z.record(z.string(), z.string().regex(/^\d+$/).nullable()) }),
  );
  const changes = Object.fromEntries(
    Object.entries(set).map(([name, value]) => [name, value === null ? null : BigInt(value)]),
  );
  const driven = await (await server()).desks.drive.driveNow(changes);
  return driven.ok ? answer(driven.value) : failure(driven.error);
});
