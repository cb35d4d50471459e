import { ProblemError } from '../../../core/result.ts';
import { problem } from '../problems.ts';
import { server } from '../../../server/index.ts';
import { announcedLength, guarded, uploadName } from '../guard.ts';

export const dynamic = 'force-dynamic';

/** Takes an SVF file as it streams in. */
export const POST = guarded(async (request) => {
  const name = uploadName(request);
  if (!request.body) throw new ProblemError(problem('request (empty)'));
  const pieces = request.body as unknown as AsyncIterable<Uint8Array>;
  return Response.json(await (await server()).svf.add(name, pieces, announcedLength(request)));
});
