// The pod protocol: what travels between this product and the process that owns a cable. docs/pod-protocol.md
export { watchBeat } from './beat.ts';
export { PodClient, type PodHello, type PodSocket } from './client.ts';
export type { LivePanel, LockView, PanelState, StagedFile } from './panel.ts';
export {
  type PodDeed,
  podRequest,
  type PodRequest,
  type PodReply,
  POD_PROTOCOL,
  type ToldDeed,
  type WireOp,
  fromWire,
  toWire,
} from './protocol.ts';
