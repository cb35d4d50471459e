// The web server's own half: SQLite through Knex, jobs, the pod, a desk for each station, what pages are told. Thin over
// core; knows no React.
export type { Server } from './assemble.ts';
export { server } from './main.ts';
export { bytesOf, type LoadPlan, type LoadStep, placesOf } from './board/index.ts';
export {
  type CompareSource,
  CONTAINERS as IMAGE_CONTAINERS,
  type FlashStep,
  type PinsNow,
  type SvfFile,
} from './desks/index.ts';
export type { Job } from './jobs/index.ts';
export {
  type BuildDetails,
  type BuildSummary,
  type ImageRow,
  keepChoice as KEEP_CHOICE,
  type KeepChoice,
  type ListedCapture,
  type LoadRow,
  type LogEntry,
  type ProjectRow,
} from './store/index.ts';
export { DEFAULT_PLAN, eventStream, type Slices, type WorkState } from './stream/index.ts';
export type { PlanCost } from './threads/index.ts';
