// The waveform: a capture drawn on a canvas, decoded in a web worker.
export { Waveform } from './waveform.tsx';
export type { ReceivedCapture } from './decode.ts';
