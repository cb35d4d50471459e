import { problem } from '../../../../../core/result.ts';
import { writeVcd } from '../../../../../core/wave/index.ts';
import { runtime } from '../../../../../server/index.ts';
import { failure, guarded } from '../../../guard.ts';

export const dynamic = 'force-dynamic';

/** One capture as a VCD file. */
export const GET = guarded(async (_, { params }: { params: Promise<{ id: string }> }) => {
  const server = await runtime();
  const project = await server.projects.current();
  const row = project ? await server.captures.get(project.id, Number((await params).id)) : null;
  if (!row) return failure(problem('no-capture', 'There is no such capture.', 'Choose one from the list.'), 404);
  return new Response(writeVcd(row.capture, row.created), { headers: { 'content-type': 'text/plain; charset=utf-8', 'content-disposition': `attachment; filename="capture-${row.id}.vcd"` } });
});
