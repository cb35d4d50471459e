import type { SignalInfo } from '../../core/build/index.ts';
import {
  type PanelPlan,
  partOf,
  type PlanShelf,
  type ProbePlan,
  type RecorderPlan,
  type StepperPlan,
} from '../../core/probes/index.ts';

/** The three things a signal can be chosen for. */
export type Use = 'record' | 'gauge' | 'lever';

/** The recorder and the panel that take what is chosen next. */
export interface Target {
  readonly recorder: number;
  readonly panel: number;
}

const DEPTH = 1024;

/** Uses of a signal in the cores that take what is chosen next. */
export function usesOf({ recorders, panels }: ProbePlan, target: Target, signal: string): ReadonlySet<Use> {
  const uses = new Set<Use>();
  if (recorders[target.recorder]?.signals.includes(signal)) uses.add('record');
  if (panels[target.panel]?.gauges.includes(signal)) uses.add('gauge');
  if (panels[target.panel]?.levers.includes(signal)) uses.add('lever');
  return uses;
}

const toggled = (list: readonly string[], name: string): string[] =>
  list.includes(name) ? list.filter((other) => other !== name) : [...list, name];

const freeName = (taken: readonly string[], base: string): string => {
  if (!taken.includes(base)) return base;
  for (let i = 2; ; i++) if (!taken.includes(`${base} ${i}`)) return `${base} ${i}`;
};

export const newRecorder = ({ recorders }: ProbePlan, clock: string, signals: readonly string[]): RecorderPlan => ({
  name: freeName(
    recorders.map(({ name }) => name),
    'main',
  ),
  clock,
  depth: DEPTH,
  signals: [...signals],
});

export const newPanel = ({ panels }: ProbePlan, clock: string): PanelPlan => ({
  name: freeName(
    panels.map(({ name }) => name),
    'main',
  ),
  clock,
  levers: [],
  gauges: [],
});

export const newStepper = ({ steppers = [] }: ProbePlan, clock: string): StepperPlan => ({
  name: freeName(
    steppers.map(({ name }) => name),
    'clock',
  ),
  clock,
});

export const setSteppers = (plan: ProbePlan, steppers: readonly StepperPlan[]): ProbePlan => ({
  ...plan,
  steppers: steppers.map((one) => withoutUndefined(one)),
});

/** What a condition of a held clock may look at: what is recorded and read on that clock. */
export function candidatesFor({ recorders, panels }: ProbePlan, { clock }: StepperPlan): string[] {
  const of = [
    ...panels.filter((panel) => panel.clock === clock).flatMap(({ gauges }) => gauges),
    ...recorders.filter((recorder) => recorder.clock === clock).flatMap(({ signals }) => signals),
  ];
  return [...new Set(of)];
}

/** Chooses or unchooses a signal; a recorder or panel with nothing left in it goes away. */
export function toggleUse(plan: ProbePlan, target: Target, signal: string, use: Use, clock: string): ProbePlan {
  if (use === 'record') {
    const known = plan.recorders[target.recorder];
    if (!known) return { ...plan, recorders: [...plan.recorders, newRecorder(plan, clock, [signal])] };
    return setRecorder(plan, target.recorder, { signals: toggled(known.signals, signal) });
  }
  const known = plan.panels[target.panel] ?? newPanel(plan, clock);
  const next =
    use === 'gauge'
      ? { ...known, gauges: toggled(known.gauges, signal) }
      : { ...known, levers: toggled(known.levers, signal) };
  const panels = plan.panels[target.panel]
    ? plan.panels.map((one, i) => (i === target.panel ? next : one))
    : [...plan.panels, next];
  return { ...plan, panels: panels.filter(({ gauges, levers }) => gauges.length + levers.length > 0) };
}

/** Changes settings of one recorder; without signals it goes. */
export const setRecorder = (plan: ProbePlan, at: number, change: Partial<RecorderPlan>): ProbePlan => ({
  ...plan,
  recorders: plan.recorders
    .map((one, i) => (i === at ? withoutUndefined({ ...one, ...change }) : one))
    .filter(({ signals }) => signals.length > 0),
});

export const setPanel = (plan: ProbePlan, at: number, change: Partial<PanelPlan>): ProbePlan => ({
  ...plan,
  panels: plan.panels.map((one, i) => (i === at ? withoutUndefined({ ...one, ...change }) : one)),
});

const withoutUndefined = <T extends object>(value: T): T =>
  Object.fromEntries(Object.entries(value).filter(([, one]) => one !== undefined)) as T;

/** Signals of a recorder that belong to another clock than it samples with, and do not come through a synchroniser. */
export function foreignSignals(
  { clock, signals, synchronised = [] }: RecorderPlan,
  known: ReadonlyMap<string, SignalInfo>,
): string[] {
  const own = clock.split('.').at(-1);
  return signals.filter((name) => {
    const domain = partOf((one) => known.get(one), name)?.of.domain ?? '';
    return domain !== '' && domain !== own && !synchronised.includes(name);
  });
}

/** The clock most of the signals belong to; null when they have none. */
export function proposedClock(signals: readonly string[], known: ReadonlyMap<string, SignalInfo>): string | null {
  const votes = new Map<string, number>();
  for (const name of signals) {
    const domain = partOf((one) => known.get(one), name)?.of.domain ?? '';
    if (domain !== '') votes.set(domain, (votes.get(domain) ?? 0) + 1);
  }
  return [...votes].sort(([, a], [, b]) => b - a)[0]?.[0] ?? null;
}

export const changedPlan = (shelf: PlanShelf, at: number, plan: ProbePlan): PlanShelf =>
  shelf.length === 0
    ? [{ name: 'plan', inBuild: true, plan }]
    : shelf.map((one, i) => (i === at ? { ...one, plan } : one));

export const addedPlan = (shelf: PlanShelf, name: string, plan: ProbePlan, inBuild: boolean): PlanShelf => [
  ...shelf,
  {
    name: freeName(
      shelf.map((one) => one.name),
      name,
    ),
    inBuild,
    plan,
  },
];
