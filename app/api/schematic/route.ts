import { z } from 'zod';
import { fingerprintOf } from '../../../core/build/index.ts';
import { current, taken } from '../current.ts';
import { answer, guarded, readJson } from '../guard.ts';

const body = z.discriminatedUnion('kind', [
  z.object({
    kind: z.literal('instance'),
    path: z.string().max(2000),
    expanded: z.array(z.string().max(2000)).max(200),
  }),
  z.object({ kind: z.literal('cone'), signal: z.string().max(2000) }),
]);

/** A drawing of the sources as they stand. */
export const POST = guarded(async (request) => {
  const view = await readJson(request, body);
  const { on, project } = await current();
  const opened = taken(await on.store.projects.open(project.id));
  return answer(
    await on.designs.draw(
      `${project.id} ${fingerprintOf({ files: opened.files, top: opened.file.top ?? null })}`,
      opened,
      view,
    ),
  );
});
