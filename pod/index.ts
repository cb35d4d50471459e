// Pods as processes: the protocol's server behind a WebSocket, and the targets of real cables. What a pod owns is given
// to it; knows no bench.
export { compiledFirmware, startFirmware } from './firmware/index.ts';
export { diskShelf } from './shelf.ts';
export { servePod } from './serve.ts';
export { openSerial, wireTarget } from './wire/index.ts';
