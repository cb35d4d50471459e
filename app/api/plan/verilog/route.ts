import { ProblemError, problem } from '../../../../core/result.ts';
import { runtime } from '../../../../server/index.ts';
import { current, taken } from '../../current.ts';
import { guarded } from '../../guard.ts';

export const dynamic = 'force-dynamic';

/** The design with the probes of its newest build as plain Verilog. */
export const GET = guarded(async () => {
  const { project } = await current();
  const server = await runtime();
  const build = await server.builds.latestGood(project.id);
  if (!build) throw new ProblemError(problem('no-build', 'There is no build to take along.', 'Build with probes.'));
  const text = await server.designs.takeAlong(taken(await server.projects.open(project.id)), await server.projects.plan(project.id), build.details.fingerprint);
  return new Response(text, { headers: { 'content-type': 'text/plain; charset=utf-8', 'content-disposition': `attachment; filename="${build.details.top}_probed.v"` } });
});
