import { z } from 'zod';
import { ProblemError } from '../../../core/result.ts';
import { server } from '../../../server/index.ts';
import { guarded, readUpload } from '../guard.ts';
import { problem } from '../problems.ts';

export const dynamic = 'force-dynamic';

const whatFor = z.enum(['flash', 'load']).default('load');

/** Takes a file: a bitstream for Load, an image of any format for the flash. */
export const POST = guarded(async (request) => {
  const asked = whatFor.safeParse(new URL(request.url).searchParams.get('for') ?? undefined);
  if (!asked.success) throw new ProblemError(problem('request (for)'));
  const { load, keep } = (await server()).desks;
  const file = await readUpload(request);
  return Response.json(await (asked.data === 'flash' ? keep.takeImage(file) : load.takeBitstream(file)));
});
