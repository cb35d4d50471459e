// The contract between page and server: every call by its name, what it takes and what it answers. Thin over the desks
// and the store. Files and the stream of events have routes of their own.
export { router, shownIn } from './procedures.ts';
export { bench } from './bench.ts';
export { capture } from './capture.ts';
export { design, type Fix } from './design.ts';
export { type JobOrder, jobs } from './jobs.ts';
export { line } from './line.ts';
export { logbook } from './logbook.ts';
export { keep, load } from './load-and-keep.ts';
export { drive, probe } from './probe-and-drive.ts';
export { replay, type SourcesOf } from './replay.ts';
export { project } from './project.ts';
