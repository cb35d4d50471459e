// The waveform: a record that a web worker holds, drawn on a canvas, with what can be asked of it.
export type { MorePanel, Panel } from './record-panels.tsx';
export { WaveRecord } from './record.tsx';
export type { ReceivedCapture, SimulatedBeside } from './messages.ts';
export type { OpenRecord } from './use-record.ts';
export type { Waves } from './use-waves.ts';
export { timeText } from './draw.ts';
export type { Source } from './use-record.ts';
export { useLateSave } from './late-save.ts';
export type { OtherRecord } from './panels/index.ts';
export { SavedViews } from './saved-views.tsx';
export type { Incident } from './draw.ts';
