export { KeepStation } from './station.tsx';
