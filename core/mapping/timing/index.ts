export type { TimingPath } from './path.ts';
export type { PortTiming } from './ports.ts';
export type { RuleUse } from './rules.ts';
export { type ClockTiming, time, type TimingReport } from './time.ts';
