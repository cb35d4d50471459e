// The web server's own half: SQLite through Knex, jobs, the pod, a desk for each station, what pages are told. Thin
// over core; knows no React.
export { server } from './main.ts';
export { type Routes, routes } from './router.ts';
export { shownIn } from './contract/index.ts';
export type { Fix, JobOrder, SourcesOf } from './contract/index.ts';
export type { LoadPlan, LoadStep } from './board/index.ts';
export type {
  CompareSource,
  FlashStep,
  PinsNow,
  SvfFile,
} from './desks/index.ts';
export type { Job } from './jobs/index.ts';
export type {
  BuildDetails,
  ImageRow,
  KeepChange,
  KeepChoice,
  Kept,
  KeptResult,
  KeptTable,
  ListedCapture,
  LogEntry,
} from './store/index.ts';
export { eventStream, type Slices, type WorkState } from './stream/index.ts';
export type { PlanCost } from './threads/index.ts';
