import { z } from 'zod';
import { ProblemError } from '../../../core/result.ts';
import { server } from '../../../server/index.ts';
import { download, guarded } from '../guard.ts';
import { problem } from '../problems.ts';

export const dynamic = 'force-dynamic';

const form = z.enum(['text', 'bytes', 'csv']);

/** What was said over the serial line, as a file. */
export const GET = guarded(async (request) => {
  const asked = form.safeParse(new URL(request.url).searchParams.get('form'));
  if (!asked.success) throw new ProblemError(problem('format (line)'));
  const { name, body } = (await server()).desks.line.lineFile(asked.data);
  return download(name, asked.data === 'bytes' ? 'application/octet-stream' : 'text/plain; charset=utf-8', body);
});
