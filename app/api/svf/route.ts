import { ProblemError } from '../../../core/result.ts';
import { problem } from '../problems.ts';
import { server } from '../../../server/index.ts';
import { guarded } from '../guard.ts';

export const dynamic = 'force-dynamic';

/** Takes an SVF file as it streams in. */
export const POST = guarded(async (request) => {
  const name = (new URL(request.url).searchParams.get('name') ?? 'file.svf').slice(0, 200);
  if (!request.body) throw new ProblemError(problem('request (empty)'));
  return Response.json(await (await server()).svf.add(name, request.body as unknown as AsyncIterable<Uint8Array>));
});
