// Design: sources, what builds say of them, and what they became.
export { DesignStation } from './station.tsx';
export { useBuilds, useProbes } from './queries.ts';
export { Waves } from './simulate/index.ts';
export { useOpenReplay, useOpenSchematic, useOpenSource } from './places.ts';
