export { BenchStation } from './station.tsx';
