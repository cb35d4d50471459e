export { CaptureStation } from './station.tsx';
