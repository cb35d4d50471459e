// Probe: choosing signals, putting debug cores into the design, their cost.
export { ProbeStation } from './station.tsx';
