// Clocks, what constrains them, and what they are made from.
export { ClocksView } from './view.tsx';
export { useClockPins } from './oscillators.ts';
