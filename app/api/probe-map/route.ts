import { readProbeMap } from '../../../core/probes/index.ts';
import { ProblemError, problem } from '../../../core/result.ts';
import { server } from '../../../server/index.ts';
import { taken } from '../current.ts';
import { answer, guarded, readBody } from '../guard.ts';

const MOST_BYTES = 4 << 20;

/** Takes the probe map that was written beside a bitstream: what its debug cores are connected to. */
export const POST = guarded(async (request) => {
  const text = new TextDecoder().decode(await readBody(request, MOST_BYTES));
  const name = (new URL(request.url).searchParams.get('name') ?? 'file').slice(0, 200);
  let data: unknown;
  try {
    data = JSON.parse(text);
  } catch {
    throw new ProblemError(
      problem('probe-map', `${name} is no JSON.`, 'Choose the .probes.json that was written beside the bitstream.'),
    );
  }
  const map = taken(readProbeMap(data));
  const on = await server();
  await on.store.files.addProbeMap(name, map);
  on.state.changed();
  return answer({ fingerprint: map.fingerprint, cores: map.cores.length });
});
