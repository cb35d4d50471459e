import { server } from '../../../server/index.ts';
import { guarded, readUpload } from '../guard.ts';

export const dynamic = 'force-dynamic';

/** Sends a file over the board's serial line; the job tells how far it is. */
export const POST = guarded(async (request) => {
  const { line } = (await server()).desks;
  return Response.json({ id: line.sendFile(await readUpload(request)) });
});
