import { z } from 'zod';
import { operations } from '../../../server/index.ts';
import { current } from '../current.ts';
import { answer, guarded, readJson } from '../guard.ts';

export const dynamic = 'force-dynamic';

/** The newest run of vectors, with its waveform. */
export const GET = guarded(async () => {
  const { server, project } = await current();
  return answer(await server.vectorRuns.latest(project.id));
});

/** Starts a run; its progress comes with the events. */
export const POST = guarded(async (request) => {
  const { file, clock, top } = await readJson(
    request,
    z.object({ file: z.string(), clock: z.string().optional(), top: z.string().optional() }),
  );
  const { server } = await current();
  return answer({ id: operations.vectors(server, file, { ...(clock ? { clock } : {}), ...(top ? { top } : {}) }) });
});
