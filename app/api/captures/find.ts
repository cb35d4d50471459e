import { ProblemError, problem } from '../../../core/result.ts';
import { server } from '../../../server/index.ts';

/** The capture a route's `[id]` names, of the current project. */
export async function findCapture(params: Promise<{ id: string }>) {
  const on = await server();
  const project = await on.store.projects.current();
  const row = project ? await on.store.captures.get(project.id, Number((await params).id)) : null;
  if (!row) throw new ProblemError(problem('no-capture', 'There is no such capture.', 'Choose one from the list.'));
  return { ...row, project: project?.id as number };
}
