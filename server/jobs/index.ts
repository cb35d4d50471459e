// Long work: lanes, progress, cancel, and a record of how it ended.
export { type Job, Jobs } from './jobs.ts';
