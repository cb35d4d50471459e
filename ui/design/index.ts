export { DesignStation } from './station.tsx';
export { useBuilds } from './queries.ts';
export { useOpenSchematic, useOpenSource, useProbeSignal } from './places.ts';
