import { taken } from '../../../core/result.ts';
import { server } from '../../../server/index.ts';
import { guarded, readUpload } from '../guard.ts';

export const dynamic = 'force-dynamic';

/** Takes a file: a bitstream for Load, an image of any format for the flash. */
export const POST = guarded(async (request) => {
  const { load, keep } = (await server()).desks;
  const file = await readUpload(request);
  const forFlash = new URL(request.url).searchParams.get('for') === 'flash';
  return Response.json(forFlash ? taken(await keep.takeImage(file)) : taken(await load.takeBitstream(file)));
});
