// Bench: the cable, the power, the chain and what can be tried on it.
export { BenchStation } from './station.tsx';
