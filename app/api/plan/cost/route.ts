import { probePlan } from '../../../../core/probes/index.ts';
import { fail, problem } from '../../../../core/result.ts';
import { runtime } from '../../../../server/index.ts';
import { answer, failure, guarded, readJson } from '../../guard.ts';

export const dynamic = 'force-dynamic';

/** What the cores of a plan would take of what the design leaves. */
export const POST = guarded(async (request) => {
  const plan = await readJson(request, probePlan);
  const server = await runtime();
  const project = await server.projects.current();
  const build = project ? ((await server.builds.latest(project.id)) ?? null) : null;
  const details = build && build.details.signals.length > 0 ? build.details : project ? (await server.builds.latestGood(project.id))?.details : null;
  if (!details) return failure(fail(problem('no-build', 'The names inside the design come from a build.', 'Build under Design.')).error);
  const own = details.instances.filter(({ path }) => !path.startsWith('probes.') && !path.startsWith('nimble_debug.'));
  const room = { luts: details.resources.lutsOfPart - own.reduce((sum, { luts }) => sum + luts, 0), blockRams: details.resources.blockRamsOfPart - own.reduce((sum, { blockRams }) => sum + blockRams, 0) };
  return answer(await server.designs.cost(plan, details.signals, room));
});
