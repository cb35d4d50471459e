// Load: bitstreams into configuration RAM, which forgets at power-off.
export { LoadStation } from './station.tsx';
