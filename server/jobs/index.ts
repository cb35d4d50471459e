// Long work: lanes, progress, cancel, and a record of how it ended.
export { DESIGN_JOBS, isDesignJob, type Job, Jobs } from './jobs.ts';
