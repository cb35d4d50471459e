// Keep: the configuration flash, what goes into it and what stands in it.
export { KeepStation } from './station.tsx';
