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
  const { server, project } = await current();
  const text = lineOf(await server.projects.files(project.id), { file, line });
  taken(
    await server.projects.change(project.id, (settings) => {
      const others = settings.accepted.filter((a) => !(a.code === code && a.file === file && a.message === message));
      return {
        ...settings,
        accepted: reason === null ? others : [...others, { code, file, message, line: text, reason }],
      };
    }),
  );
  await server.builds.rejudge(project.id, taken(await server.projects.open(project.id)));
  server.changed();
  return answer({});
});
