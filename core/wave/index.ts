// Records of signals over time: captures as they left a recorder and value change dumps, searched, measured, decoded,
// compared, written. Knows nothing of how they are drawn.
export type { Capture, HeldLever, ReadAt, SaidMeanwhile } from './capture.ts';
export { type ReadCapture, readCaptureJson } from './read-json.ts';
export { writeCsv, writeJson, writeRecordVcd, writeVcd } from './write.ts';
export { VcdReader } from './vcd-read.ts';
export { canBeSame, digitsOf, indexAt, type Trace, TraceWriter } from './trace.ts';
export {
  type Axis,
  nearestStored,
  placeOfReal,
  realTick,
  realTicks,
  type Recording,
  secondsText,
  stepStored,
  ticksBetween,
  timeAt,
  zeroOf,
} from './recording.ts';
export { type Ranges, lastAt, rangeIn, rangesOf, type Steps, stepsOf } from './steps.ts';
export { type GapStyle, recordingOf } from './from-capture.ts';
export { type Radix, RADIX_NAMES, realText, writeValue } from './radix.ts';
export { checkRule, findAll, type Found, nextEdge, nextStretch, type Stretch } from './find.ts';
export { type BitMeasures, histogram, measure, type WordMeasures } from './measure.ts';
export { decode, type Decoder, type Frame, measureBaud } from './decode/index.ts';
export { type Alignment, compareRecordings, type Comparison, type Difference, type Measure } from './compare.ts';
export { type Hint, odditiesOf, type Oddity, withLevers } from './oddities.ts';
export { joinRecordings, type Laid, sharedOffset } from './join.ts';
export {
  type DecoderRow,
  fitView,
  freshId,
  type GroupRow,
  type LeafRow,
  leavesOf,
  nameOfRow,
  openedView,
  plainView,
  type Row,
  savedView,
  type SignalRow,
  traceOfRow,
  wholeRow,
  type WaveCursor,
  type WaveNote,
  type WaveView,
  waveView,
} from './view.ts';
export { recordingOfSteps, type StepRecord } from './from-steps.ts';
