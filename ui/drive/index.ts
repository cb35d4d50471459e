// Drive: levers into the running design, gauges out of it.
export { DriveStation } from './station.tsx';
