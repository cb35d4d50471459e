// How fast the chain can be clocked without wrong bits.
export { SpeedView } from './view.tsx';
