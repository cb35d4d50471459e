import { readProbeMap } from '../../../core/probes/index.ts';
import { ProblemError, taken } from '../../../core/result.ts';
import { problem } from '../problems.ts';
import { server } from '../../../server/index.ts';
import { guarded, readUpload } from '../guard.ts';

/** Takes the probe map that was written beside a bitstream: what its debug cores are connected to. */
export const POST = guarded(async (request) => {
  const { name, bytes } = await readUpload(request);
  let data: unknown;
  try {
    data = JSON.parse(new TextDecoder().decode(bytes));
  } catch {
    throw new ProblemError(problem('probe-map', { name }));
  }
  const map = taken(readProbeMap(data));
  const on = await server();
  await on.store.files.addProbeMap(name, map);
  on.state.changed();
  return Response.json({ fingerprint: map.fingerprint, cores: map.cores.length });
});
