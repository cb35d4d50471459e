import { z } from 'zod';
import { readBitstream } from '../../../core/fabric/index.ts';
import { runtime } from '../../../server/index.ts';
import { taken } from '../current.ts';
import { answer, guarded, MOST_UPLOAD_BYTES, readBody, readJson } from '../guard.ts';

export const dynamic = 'force-dynamic';

export const GET = guarded(async () => answer(await (await runtime()).bench.images()));

/** Takes a .nbits file for the plan; one that is none is refused here. */
export const POST = guarded(async (request) => {
  const bytes = await readBody(request, MOST_UPLOAD_BYTES);
  const { part, fingerprint } = taken(readBitstream(bytes));
  const name = (new URL(request.url).searchParams.get('name') ?? 'file').slice(0, 200);
  return answer({ id: await (await runtime()).bench.addImage(name, bytes), part, fingerprint });
});

export const DELETE = guarded(async (request) => {
  const { id } = await readJson(request, z.object({ id: z.number().int() }));
  return answer({ removed: await (await runtime()).bench.removeImage(id) });
});
