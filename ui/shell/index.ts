// The three fixed things of the page: the track, the docked board, the job line; and what works everywhere by keyboard.
export { Workbench } from './workbench.tsx';
