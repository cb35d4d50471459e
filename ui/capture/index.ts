// Capture: arming recorders, waiting, and the records they leave.
export { CaptureStation } from './station.tsx';
