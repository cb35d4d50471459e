import type { CheaperPlan, ProbePlan, Standstill } from '../../core/probes/index.ts';
import { fail, ok, type Result } from '../../core/result.ts';
import { problem } from './problems.ts';
import type { PlanCost, PricedPlan } from '../threads/index.ts';
import type { Given } from './needs.ts';
import { currentProject } from '../project/index.ts';

type Needs = Pick<Given, 'store' | 'designs' | 'pricing' | 'project'>;

/**
 * What the cores of a plan, and of others in the build beside it, would take of what the design by itself leaves in its
 * part.
 */
export async function planCostNow(on: Needs, plan: ProbePlan, others: ProbePlan): Promise<Result<PlanCost>> {
  const priced = await pricedPlan(on, plan, others);
  return priced.ok ? ok(await on.pricing.cost(priced.value)) : priced;
}

/** What of a plan it would be enough to give up; null where nothing is. */
export async function cheaperPlanNow(
  on: Needs,
  plan: ProbePlan,
  others: ProbePlan,
): Promise<Result<CheaperPlan | null>> {
  const priced = await pricedPlan(on, plan, others);
  return priced.ok ? ok(await on.pricing.cheaper(priced.value)) : priced;
}

/** What stands while a clock is held, and what goes on, as the sources are now. */
export async function standstillNow(on: Needs, clock: string): Promise<Result<Standstill | null>> {
  const project = await currentProject(on);
  if (!project.ok) return project;
  const opened = await on.store.projects.open(project.value.id);
  return opened.ok ? ok(await on.pricing.standstill(opened.value, clock)) : opened;
}

async function pricedPlan(on: Needs, plan: ProbePlan, others: ProbePlan): Promise<Result<PricedPlan>> {
  const project = await currentProject(on);
  if (!project.ok) return project;
  const latest = await on.store.builds.latest(project.value.id);
  const known =
    latest && latest.details.signals.length > 0 ? latest : await on.store.builds.latestGood(project.value.id);
  if (!known) return fail(problem('no-build (pricedPlan)'));
  const { instances, resources, signals } = known.details;
  const own = instances.filter(({ path }) => !path.startsWith('probes.') && !path.startsWith('nimble_debug.'));
  const left = (whole: number, of: (use: (typeof own)[number]) => number) =>
    own.reduce((rest, use) => rest - of(use), whole);
  const opened = await on.store.projects.open(project.value.id);
  if (!opened.ok) return opened;
  const digests = await on.store.projects.digests(project.value.id);
  const whole = { luts: resources.lutsOfPart, registers: resources.lutsOfPart, blockRams: resources.blockRamsOfPart };
  return ok({
    plan,
    others,
    signals,
    whole,
    project: opened.value,
    key: JSON.stringify(digests),
    room: {
      luts: left(resources.lutsOfPart, ({ luts }) => luts),
      registers: left(resources.lutsOfPart, ({ registers }) => registers),
      blockRams: left(resources.blockRamsOfPart, ({ blockRams }) => blockRams),
    },
  });
}

/**
 * The newest build with its probes as plain Verilog. Only while sources and plan are still what it was made of: its
 * fingerprint goes along.
 */
export async function takeAlongNow(
  on: Needs,
  what: 'design' | 'wrapper' = 'design',
): Promise<Result<{ readonly name: string; readonly verilog: string }>> {
  const project = await currentProject(on);
  if (!project.ok) return project;
  const build = await on.store.builds.latestGood(project.value.id);
  if (!build) return fail(problem('no-build (takeAlongNow)'));
  const edits = await on.project.staleEdits();
  if (edits.length > 0) return fail(problem('stale-build', { edits: edits.join(', ') }));
  const { taken, top } = build.details;
  if (taken)
    return ok(
      what === 'wrapper'
        ? { name: `${top}_on_board.v`, verilog: taken.wrapper }
        : { name: `${top}_probed.v`, verilog: taken.verilog },
    );
  const opened = await on.store.projects.open(project.value.id);
  if (!opened.ok) return opened;
  return ok({
    name: `${build.details.top}_probed.v`,
    verilog: await on.designs.takeAlong(
      opened.value,
      await on.store.projects.plan(project.value.id),
      build.details.fingerprint,
    ),
  });
}
