import { z } from 'zod';
import { operations, runtime } from '../../../server/index.ts';
import { taken } from '../current.ts';
import { answer, guarded, readJson } from '../guard.ts';

const body = z.discriminatedUnion('what', [
  z.object({ what: z.literal('look') }),
  z.object({
    what: z.literal('drive'),
    place: z.number().int().min(0).max(200),
    pin: z.string().max(40),
    level: z.union([z.literal(0), z.literal(1)]).nullable(),
  }),
  z.object({ what: z.literal('release') }),
]);

/** Pins by their boundary registers: look, drive one, give all back. */
export const POST = guarded(async (request) => {
  const wanted = await readJson(request, body);
  const server = await runtime();
  if (wanted.what === 'drive')
    return answer(taken(await operations.drivePin(server, wanted.place, wanted.pin, wanted.level)));
  if (wanted.what === 'release') await operations.releasePins(server);
  return answer(taken(await operations.lookAtPins(server)));
});
