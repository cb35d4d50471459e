import { z } from 'zod';
import { current } from '../current.ts';
import { answer, guarded, readJson } from '../guard.ts';

export const dynamic = 'force-dynamic';

/** The newest run of vectors, with its waveform. */
export const GET = guarded(async () => {
  const { on, project } = await current();
  return answer(await on.store.vectorRuns.latest(project.id));
});

/** Starts a run; its progress comes with the events. */
export const POST = guarded(async (request) => {
  const { file, clock, top } = await readJson(
    request,
    z.object({ file: z.string(), clock: z.string().optional(), top: z.string().optional() }),
  );
  const { on } = await current();
  return answer({ id: on.desks.design.vectors(file, { ...(clock ? { clock } : {}), ...(top ? { top } : {}) }) });
});
