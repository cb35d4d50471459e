import { base64FromBytes } from '../../../../core/bits/index.ts';
import { problem } from '../../../../core/result.ts';
import { runtime } from '../../../../server/index.ts';
import { answer, failure, guarded } from '../../guard.ts';

export const dynamic = 'force-dynamic';

/** One capture; its samples as base64. */
export const GET = guarded(async (_, { params }: { params: Promise<{ id: string }> }) => {
  const server = await runtime();
  const project = await server.projects.current();
  const row = project ? await server.captures.get(project.id, Number((await params).id)) : null;
  if (!row) return failure(problem('no-capture', 'There is no such capture.', 'Choose one from the list.'), 404);
  const { data, ...about } = row.capture;
  return answer({ id: row.id, created: row.created, about, data: base64FromBytes(data.bytes) });
});
