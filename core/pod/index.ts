// The pod protocol: what travels between this product and the process that owns a cable, and both its ends. Knows
// neither sockets nor what a cable is made of. docs/pod-protocol.md
export { watchBeat } from './beat.ts';
export { PodClient } from './client.ts';
export { bytesHeard, type LineAccess, lineAt } from './line-access.ts';
export { PodServer } from './server.ts';
export type { StagedFile } from './staged.ts';
export type { Shelved, StageShelf } from './staging.ts';
export type { LineHeard, PodTarget, SerialLine } from './target.ts';
export type {
  HeardOnLine,
  PodCapabilities,
  PodDeed,
  PodStatusEvent,
  ToldDeed,
} from './protocol.ts';
