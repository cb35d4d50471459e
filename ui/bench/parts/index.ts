// The parts of a board by hand: what hangs at which pin, into a bench file, from and to a board description.
export { PartsView } from './view.tsx';
