// The waveform: a record that a web worker holds, drawn on a canvas, with what can be asked of it.
export type { Panel } from './record-panels.tsx';
export { WaveRecord } from './record.tsx';
export type { ReceivedCapture } from './messages.ts';
export type { Source } from './use-record.ts';
export { useLateSave } from './late-save.ts';
export type { OtherRecord } from './panels/index.ts';
export { SavedViews } from './saved-views.tsx';
export type { Incident } from './draw.ts';
