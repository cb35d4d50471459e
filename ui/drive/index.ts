export { DriveStation } from './station.tsx';
