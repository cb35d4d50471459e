import { server } from '../../../server/index.ts';
import { guarded, readUpload } from '../guard.ts';

export const dynamic = 'force-dynamic';

/** Checks a description of a device, and keeps it when it is good. */
export const POST = guarded(async (request) => {
  const { bytes } = await readUpload(request);
  return Response.json(await (await server()).desks.bench.takeDescription(bytes));
});
