import { taken } from '../../../core/result.ts';
import { server } from '../../../server/index.ts';
import { download, guarded } from '../guard.ts';

export const dynamic = 'force-dynamic';

/** The newest bitstream as a file. */
export const GET = guarded(async () => {
  const { name, bytes } = taken(await (await server()).desks.design.newestBitstream());
  return download(name, 'application/octet-stream', bytes);
});
