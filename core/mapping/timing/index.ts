export type { TimingPath } from './arrivals.ts';
export type { PortTiming } from './ports.ts';
export type { RuleUse } from './rules.ts';
export { type ClockTiming, time, type TimingReport } from './time.ts';
export { LINK_CLOCK } from './names.ts';
