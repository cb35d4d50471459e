import {
  bench,
  capture,
  design,
  drive,
  jobs,
  keep,
  line,
  load,
  logbook,
  probe,
  project,
  replay,
  router,
} from './contract/index.ts';

/** Every call of the page, by station. */
export const routes = router({
  jobs,
  bench,
  project,
  design,
  load,
  keep,
  probe,
  capture,
  drive,
  replay,
  line,
  logbook,
});

/** The contract as the page is typed by it. */
export type Routes = typeof routes;
