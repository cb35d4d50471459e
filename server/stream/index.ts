// What pages are told: named slices of everything, each published when it changed and only then.
export { eventStream } from './event-stream.ts';
export { Publisher } from './publisher.ts';
export { type Slices, slices } from './slices.ts';
export type { WorkState } from './state.ts';
