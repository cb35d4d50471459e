// Captures: samples as they left a recorder, read by signal and place, and written as VCD.
export { type Capture, type CapturedSignal, changesOf, type Change, formatValue, valueAt } from './capture.ts';
export { writeVcd } from './vcd.ts';
