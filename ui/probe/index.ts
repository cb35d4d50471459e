export { ProbeStation } from './station.tsx';
