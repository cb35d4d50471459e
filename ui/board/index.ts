// The board, docked on the right of every station: what it shows, and what hands can do to it.
export { BoardDock } from './dock.tsx';
