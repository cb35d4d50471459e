import { z } from 'zod';
import { applyInsertions } from '../../../core/build/index.ts';
import { current, taken } from '../current.ts';
import { answer, guarded, readJson } from '../guard.ts';

const place = z.object({
  file: z.string(),
  line: z.number().int().positive(),
  column: z.number().int().nonnegative(),
  insert: z.string().max(2000),
});
const body = z.discriminatedUnion('kind', [
  z.object({ kind: z.literal('insert'), insertions: z.array(place).min(1).max(20) }),
  z.object({ kind: z.literal('set-top'), top: z.string().min(1).max(200) }),
  z.object({ kind: z.literal('constrain-clock'), clock: z.string(), hertz: z.number().positive() }),
]);

/** Carries out the change a message offers. */
export const POST = guarded(async (request) => {
  const fix = await readJson(request, body);
  const { on, project } = await current();
  if (fix.kind === 'insert')
    taken(
      await on.store.projects.put(
        project.id,
        taken(applyInsertions(await on.store.projects.files(project.id), fix.insertions)),
      ),
    );
  else if (fix.kind === 'set-top')
    taken(await on.store.projects.change(project.id, (file) => ({ ...file, top: fix.top })));
  else
    taken(
      await on.store.projects.change(project.id, (file) => ({
        ...file,
        clocks: { ...file.clocks, [fix.clock]: fix.hertz },
      })),
    );
  on.state.changed();
  return answer({});
});
