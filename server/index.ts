// The web server's own half: SQLite through Knex, the job queue, the pod, the logbook. Thin over core; knows no React.
export { runtime, type Runtime } from './runtime.ts';
export type { Job } from './jobs.ts';
export type { ListedCapture } from './captures.ts';
export type { LogEntry } from './logbook.ts';
export type { BuildDetails } from './builds.ts';
export type { PlanCost } from './design-thread.ts';
export type { ProjectRow } from './projects.ts';
export type { BuildSummary, WorkState } from './state.ts';
export { DEFAULT_PLAN, type LoadPlan, type LoadStep } from './operations/load.ts';
export type { PinsNow } from './operations/pins.ts';
export type { LoadRow, ImageRow } from './bench-store.ts';
export { keepChoice as KEEP_CHOICE, type KeepChoice } from './facts.ts';
export { CONTAINERS as IMAGE_CONTAINERS } from './operations/keep-subject.ts';
export { bytesOf, type CompareSource, placesOf } from './operations/compare-flash.ts';
export type { FlashStep } from './operations/flash-step.ts';

export type { SvfFile } from './svf-desk.ts';
export { operations } from './operations.ts';
