// Requests that nobody who means well sends, to every route of the workbench and to its pod, while they work for others.
export { Hostile, type Trouble } from './hostile.ts';
