import { writeArchive } from '../../../../../core/build/index.ts';
import { ProblemError, problem } from '../../../../../core/result.ts';
import { server } from '../../../../../server/index.ts';
import { guarded } from '../../../guard.ts';

export const dynamic = 'force-dynamic';

/** The whole project as one zip file. */
export const GET = guarded(async (_request, { params }: { params: Promise<{ id: string }> }) => {
  const on = await server();
  const id = Number((await params).id);
  const row = (await on.store.projects.list()).find((project) => project.id === id);
  if (!row) throw new ProblemError(problem('no-project', 'There is no such project any more.', 'Reload the page.'));
  const bytes = writeArchive({ files: await on.store.projects.files(id), shelf: await on.store.projects.shelf(id) });
  const name = row.name.replace(/[^\w-]+/g, '-').toLowerCase() || 'project';
  return new Response(bytes as BodyInit, {
    headers: { 'content-type': 'application/zip', 'content-disposition': `attachment; filename="${name}.zip"` },
  });
});
