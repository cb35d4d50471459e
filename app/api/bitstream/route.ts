import { problem } from '../../../core/result.ts';
import { server } from '../../../server/index.ts';
import { failure, guarded } from '../guard.ts';

export const dynamic = 'force-dynamic';

/** The newest bitstream as a file. */
export const GET = guarded(async () => {
  const on = await server();
  const project = await on.store.projects.current();
  const row = project ? await on.store.builds.latestGood(project.id) : null;
  const bytes = row ? await on.store.builds.bitstream(row.id) : null;
  if (!row || !bytes) return failure(problem('no-build', 'There is no bitstream yet.', 'Build the design.'), 404);
  return new Response(new Uint8Array(bytes), {
    headers: {
      'content-type': 'application/octet-stream',
      'content-disposition': `attachment; filename="${row.details.top}-${row.details.fingerprint.slice(0, 8)}.nbits"`,
    },
  });
});
