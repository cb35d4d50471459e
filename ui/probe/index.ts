// Probe: choosing signals, putting debug cores into the design, their cost.
export { Cost } from './cost.tsx';
export { addedPlan } from './plan-edit.ts';
export { ProbeStation } from './station.tsx';
