// Logbook: what was done, to which board, with what result.
export { LogbookStation } from './station.tsx';
