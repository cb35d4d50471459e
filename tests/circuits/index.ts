// Small circuits with their counts by hand, for tests and for the bench.
export { CLOCK, LISTED } from './listed.ts';
export { MORE } from './more.ts';
