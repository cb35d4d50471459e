// Pods as processes: the protocol's server behind a WebSocket. What a pod owns is given to it; knows no bench.
export { servePod } from './serve.ts';
