import { z } from 'zod';
import { issuesTold, otherVersion } from '../json-file.ts';
import { fail, ok, type Result } from '../result.ts';
import { signalPart } from './part.ts';
import { problem } from './problems.ts';
import { coresIn, emptyPlan, type ProbePlan, probePlan } from './plan.ts';

/** Probe plans of a project by name. Those in the build are built in together; the others rest. */
export const planShelf = z.array(z.object({ name: z.string().min(1).max(60), inBuild: z.boolean(), plan: probePlan }));

export type PlanShelf = z.infer<typeof planShelf>;

const planFile = z
  .object({
    format: z.literal('nimble-probe-plan').optional(),
    version: z.literal(1).optional(),
    name: z.string().min(1).max(60).optional(),
  })
  .and(probePlan);

/**
 * What goes into a build: the plans that are in it, without what is switched off. A name used twice gets its plan's
 * name behind it, in brackets.
 */
export function activePlan(shelf: PlanShelf): ProbePlan {
  const active = shelf.filter(({ inBuild }) => inBuild);
  const taken = new Set<string>();
  const named = <T extends { readonly name: string; readonly off?: boolean | undefined }>(
    kind: string,
    plan: string,
    core: T,
  ): T => {
    const { off: _, ...on } = core;
    const name = taken.has(`${kind} ${core.name}`) ? `${core.name} (${plan})` : core.name;
    taken.add(`${kind} ${name}`);
    return { ...(on as T), name };
  };
  const steppers = active.flatMap(({ name, plan }) =>
    (plan.steppers ?? []).filter(({ off }) => !off).map((core) => named('stepper', name, core)),
  );
  // There is one set of flash pins.
  const bridge = active.flatMap(({ plan }) => (plan.bridge && !plan.bridge.off ? [{ name: plan.bridge.name }] : []))[0];
  return {
    ...(steppers.length > 0 ? { steppers } : {}),
    ...(bridge ? { bridge } : {}),
    recorders: active.flatMap(({ name, plan }) =>
      plan.recorders.filter(({ off }) => !off).map((core) => named('recorder', name, core)),
    ),
    panels: active.flatMap(({ name, plan }) =>
      plan.panels.filter(({ off }) => !off).map((core) => named('panel', name, core)),
    ),
  };
}

/** A shelf as it was stored, or a single plan from before there were several. */
export function readShelf(data: unknown): PlanShelf {
  const several = planShelf.safeParse(data);
  if (several.success) return several.data;
  const one = probePlan.safeParse(data);
  const plan = one.success ? one.data : emptyPlan;
  return coresIn(plan) > 0 ? [{ name: 'plan', inBuild: true, plan }] : [];
}

/** A plan file, ours or a bare plan. docs/formats.md, section 3 */
export function readPlanFile(
  text: string,
  fileName: string,
): Result<{ readonly name: string; readonly plan: ProbePlan }> {
  let data: unknown;
  try {
    data = JSON.parse(text);
  } catch (error) {
    return fail(problem('plan-file (not json)', { fileName, why: error instanceof Error ? error.message : '' }));
  }
  if ((data as { format?: unknown } | null)?.format === 'nimble-probes')
    return fail(problem('plan-file (map)', { fileName }));
  const read = planFile.safeParse(data);
  const version = read.success ? null : otherVersion(data, read.error);
  if (version !== null) return fail(problem('plan-file (version)', { fileName, version }));
  if (!read.success) return fail(problem('plan-file', { fileName, why: issuesTold(read.error) }));
  const { recorders, panels, steppers, bridge, name } = read.data;
  return ok({
    name: name ?? fileName.replace(/(\.probes|\.plan)?\.json$/, ''),
    plan: { recorders, panels, ...(steppers ? { steppers } : {}), ...(bridge ? { bridge } : {}) },
  });
}

export const writePlanFile = (name: string, { recorders, panels, steppers, bridge }: ProbePlan): string =>
  `${JSON.stringify({ format: 'nimble-probe-plan', version: 1, name, recorders, panels, steppers, bridge }, null, 2)}\n`;

/** Names of a plan that a design does not have, each once. */
export function missingNames({ recorders, panels, steppers = [] }: ProbePlan, known: ReadonlySet<string>): string[] {
  const all = [
    ...recorders.flatMap(({ clock, signals, atTrigger = [] }) => [clock, ...signals, ...atTrigger]),
    ...panels.flatMap(({ clock, levers, gauges }) => [...(clock === '' ? [] : [clock]), ...levers, ...gauges]),
    ...steppers.flatMap(({ clock, signals = [] }) => [clock, ...signals]),
  ];
  return [...new Set(all)].filter((name) => !known.has(name) && !known.has(signalPart(name)?.signal ?? ''));
}
