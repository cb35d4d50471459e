import { ProblemError } from '../../../../core/result.ts';
import { server } from '../../../../server/index.ts';
import { download, guarded } from '../../guard.ts';
import { problem } from '../../problems.ts';

export const dynamic = 'force-dynamic';

/** The value change dump of one run of a testbench in the current project. */
export const GET = guarded(async (_, { params }: { params: Promise<{ id: string }> }) => {
  const { id } = await params;
  const { projects, simulations } = (await server()).store;
  const project = await projects.current();
  const found = project ? await simulations.dump(project.id, Number(id)) : null;
  if (!found) throw new ProblemError(problem('no-simulation'));
  return download(`${found.testbench}.vcd`, 'text/plain; charset=utf-8', found.bytes);
});
