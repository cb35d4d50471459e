// Everything that lasts: SQLite through Knex, its migrations, and a repository for each kind of thing. Knows no jobs,
// no board and no page.
import type { Knex } from 'knex';
import type { Edit } from '../../core/build/index.ts';
import { BenchStore } from './bench-store.ts';
import { Builds, staleBecause } from './builds.ts';
import { Captures } from './captures.ts';
import { Logbook } from './logbook.ts';
import { Pods } from './pods.ts';
import { Projects } from './projects.ts';
import { Simulations } from './simulations.ts';
import { KeptRuns } from './kept-runs.ts';
import type { KeptTable } from './table-runs.ts';
import type { KeptResult } from './vector-runs.ts';

export { type KeptTable, keptColumns } from './table-runs.ts';
export type { KeptResult } from './vector-runs.ts';
export type { ImageRow } from './bench-store.ts';
export { type BuildDetails, type BuildRow, type BuildSummary, staleBecause } from './builds.ts';
export { isFull, type Kept, type ListedCapture } from './captures.ts';
export { openDatabase } from './database.ts';
export { ALONE, chosenAnew, FactStore, keepChange, type KeepChange, type KeepChoice } from './facts.ts';
export { home } from './home.ts';
export type { LogEntry, Logbook } from './logbook.ts';
export { seedDemo } from './seed.ts';

export interface Store {
  readonly projects: Projects;
  readonly builds: Builds;
  readonly captures: Captures;
  readonly vectorRuns: KeptRuns<KeptResult>;
  /** Tables of vectors run on hardware. */
  readonly tableRuns: KeptRuns<KeptTable>;
  readonly simulations: Simulations;
  /** Files and facts of the bench: images, descriptions, what was said of places, loads. */
  readonly files: BenchStore;
  readonly logbook: Logbook;
  readonly pods: Pods;
  /** What was edited since the newest build of a project. */
  staleEdits(project: number): Promise<readonly Edit[]>;
}

export function openStore(db: Knex): Store {
  const projects = new Projects(db);
  const builds = new Builds(db);
  return {
    projects,
    builds,
    captures: new Captures(db),
    vectorRuns: new KeptRuns(db, 'vector_runs'),
    tableRuns: new KeptRuns(db, 'table_runs'),
    simulations: new Simulations(db),
    files: new BenchStore(db),
    logbook: new Logbook(db),
    pods: new Pods(db),
    staleEdits: async (project) => staleBecause(await builds.head(project), await projects.digests(project)),
  };
}
