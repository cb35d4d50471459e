import { z } from 'zod';
import { lineOf } from '../../../core/build/index.ts';
import { current, taken } from '../current.ts';
import { answer, guarded, readJson } from '../guard.ts';

const body = z.object({
  code: z.string(),
  file: z.string(),
  line: z.number().int().positive(),
  message: z.string(),
  reason: z.string().trim().min(1).max(500).nullable(),
});

/** Accepts a message with a reason, or takes the acceptance back. */
export const POST = guarded(async (request) => {
  const { code, file, line, message, reason } = await readJson(request, body);
  const { on, project } = await current();
  const text = lineOf(await on.store.projects.files(project.id), { file, line });
  taken(
    await on.store.projects.change(project.id, (settings) => {
      const others = settings.accepted.filter((a) => !(a.code === code && a.file === file && a.message === message));
      return {
        ...settings,
        accepted: reason === null ? others : [...others, { code, file, message, line: text, reason }],
      };
    }),
  );
  await on.store.builds.rejudge(project.id, taken(await on.store.projects.open(project.id)));
  on.state.changed();
  return answer({});
});
