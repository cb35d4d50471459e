export { LoadStation } from './station.tsx';
