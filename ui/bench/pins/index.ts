// Pins by boundary scan: their levels, and driving them.
export { PinsView } from './view.tsx';
