import { writeArchive } from '../../../../../core/build/index.ts';
import { ProblemError } from '../../../../../core/result.ts';
import { problem } from '../../../problems.ts';
import { server } from '../../../../../server/index.ts';
import { download, guarded } from '../../../guard.ts';

export const dynamic = 'force-dynamic';

/** The whole project as one zip file. */
export const GET = guarded(async (_request, { params }: { params: Promise<{ id: string }> }) => {
  const { projects } = (await server()).store;
  const id = Number((await params).id);
  const row = (await projects.list()).find((project) => project.id === id);
  if (!row) throw new ProblemError(problem('no-project'));
  const bytes = writeArchive({ files: await projects.files(id), shelf: await projects.shelf(id) });
  const name = row.name.replace(/[^\w-]+/g, '-').toLowerCase() || 'project';
  return download(`${name}.zip`, 'application/zip', bytes);
});
