import { z } from 'zod';
import { server } from '../../../server/index.ts';
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
  const on = await server();
  if (wanted.what === 'drive')
    return answer(taken(await on.desks.bench.drivePin(wanted.place, wanted.pin, wanted.level)));
  if (wanted.what === 'release') await on.desks.bench.releasePins();
  return answer(taken(await on.desks.bench.lookAtPins()));
});
