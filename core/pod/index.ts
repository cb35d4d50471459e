// The pod protocol: what travels between this product and the process that owns a cable. docs/pod-protocol.md
export { watchBeat } from './beat.ts';
export { PodClient } from './client.ts';
export type { LivePanel, LockView, PanelState, StagedFile } from './panel.ts';
export {
  type PodDeed,
  podRequest,
  type PodRequest,
  type PodReply,
  POD_PROTOCOL,
  type ToldDeed,
  fromWire,
} from './protocol.ts';
