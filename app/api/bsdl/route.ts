import { readBsdl } from '../../../core/bsdl/index.ts';
import { server } from '../../../server/index.ts';
import { guarded, readUpload } from '../guard.ts';

export const dynamic = 'force-dynamic';

/** Checks a description of a device, and keeps it when it is good. */
export const POST = guarded(async (request) => {
  const text = new TextDecoder().decode((await readUpload(request)).bytes);
  const on = await server();
  const reading = readBsdl(text);
  const kept = reading.valid ? await on.store.files.addDescription(text) : null;
  if (kept?.ok) on.state.changed();
  return Response.json({ valid: reading.valid, entity: reading.entity?.entity ?? null, problems: reading.problems });
});
