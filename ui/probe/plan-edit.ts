import type { ProbePlan, RecorderPlan } from '../../core/probes/index.ts';

/** The three things a signal can be chosen for. */
export type Use = 'record' | 'gauge' | 'lever';

const RECORDER = 'main';
const PANEL = 'main';
const DEPTH = 1024;

export function usesOf(plan: ProbePlan, signal: string): ReadonlySet<Use> {
  const uses = new Set<Use>();
  if (plan.recorders.some((r) => r.signals.includes(signal))) uses.add('record');
  if (plan.panels.some((p) => p.gauges.includes(signal))) uses.add('gauge');
  if (plan.panels.some((p) => p.levers.includes(signal))) uses.add('lever');
  return uses;
}

const without = (list: readonly string[], name: string): string[] => list.filter((other) => other !== name);
const toggled = (list: readonly string[], name: string): string[] => (list.includes(name) ? without(list, name) : [...list, name]);

/** Chooses or unchooses a signal; a recorder or panel with nothing left in it goes away. */
export function toggleUse(plan: ProbePlan, signal: string, use: Use, clock: string): ProbePlan {
  if (use === 'record') {
    const [recorder = { name: RECORDER, clock, depth: DEPTH, signals: [] }] = plan.recorders;
    const signals = toggled(recorder.signals, signal);
    return { ...plan, recorders: signals.length > 0 ? [{ ...recorder, signals }] : [] };
  }
  const [panel = { name: PANEL, clock, levers: [], gauges: [] }] = plan.panels;
  const next = use === 'gauge' ? { ...panel, gauges: toggled(panel.gauges, signal) } : { ...panel, levers: toggled(panel.levers, signal) };
  return { ...plan, panels: next.gauges.length + next.levers.length > 0 ? [next] : [] };
}

export const setDepth = (plan: ProbePlan, depth: number): ProbePlan => ({ ...plan, recorders: plan.recorders.map((r) => ({ ...r, depth })) });

/** Comparators and stages of the recorder's trigger. */
export const setTrigger = (plan: ProbePlan, change: Pick<RecorderPlan, 'comparators' | 'stages'>): ProbePlan => ({ ...plan, recorders: plan.recorders.map((r) => ({ ...r, ...change })) });

export const setClock = (plan: ProbePlan, kind: 'recorders' | 'panels', clock: string): ProbePlan =>
  kind === 'recorders' ? { ...plan, recorders: plan.recorders.map((r) => ({ ...r, clock })) } : { ...plan, panels: plan.panels.map((p) => ({ ...p, clock })) };
