// A board behind a cable: the chain on it, scanned once and looked at again cheaply, and what hands or a pod can do to
// it. Knows neither pods nor what operations are made of this.
export type { BoardHands, BootSource } from './board.ts';
export type { BoardPart, BoardView } from './view.ts';
export { boardView } from './view.ts';
export { ChainSession } from './session.ts';
export { isPowered, LEAST_VOLTS, type Scan } from './scan.ts';
