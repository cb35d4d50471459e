// The serial line of the board: what is said over it, both ways, and how.
export { LineView } from './view.tsx';
