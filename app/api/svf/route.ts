import { z } from 'zod';
import { ProblemError, problem } from '../../../core/result.ts';
import { server } from '../../../server/index.ts';
import { answer, guarded, readJson } from '../guard.ts';

export const dynamic = 'force-dynamic';

export const GET = guarded(async () => answer(await (await server()).svf.files()));

/** Takes a file as it streams in. */
export const POST = guarded(async (request) => {
  const name = (new URL(request.url).searchParams.get('name') ?? 'file.svf').slice(0, 200);
  if (!request.body) throw new ProblemError(problem('request', 'The file is empty.', 'Choose another one.'));
  return answer(await (await server()).svf.add(name, request.body as unknown as AsyncIterable<Uint8Array>));
});

export const DELETE = guarded(async (request) => {
  const { id } = await readJson(request, z.object({ id: z.number().int() }));
  await (await server()).svf.remove(id);
  return answer({});
});
