// Whole operations on a board, as a page or a script asks for them: scan, load, keep, capture, drive. Each one takes a
// chain session and gives back what happened; what is stored or shown is somebody else's business.
export { type Load, loadBitstream } from './load.ts';
export { type Check, checkLoad, type LoadContext } from './load-checks.ts';
export { type AfterLoad, lookAfterLoad } from './after-load.ts';
export { describedChain } from './descriptions.ts';
export { type Keep, keepBitstream, keepBlocks, type KeepRequest, readyToKeep } from './keep.ts';
export { type BlockRole, type KeepBlock, planBlocks } from './keep-blocks.ts';
export { imageBlocks, placedImage } from './image-blocks.ts';
export { allowed, type KeepCheck } from './keep-checks.ts';
export { type Rehearsal, type RehearsalKind, rehearseBoot } from './rehearse.ts';
export {
  type Armed,
  armRecorder,
  type CaptureOutcome,
  captureNow,
  type CaptureRequest,
  checkCapture,
  disarmRecorder,
  haltRecorder,
  lookAtRecorder,
  readRecorder,
  triggerRecorder,
} from './capture.ts';
export { drive, type Driven, leversInForce } from './drive.ts';
export { MOST_STEPS, stepClock, type StepOrder } from './step.ts';
export { runTable, tableCores } from './run-table.ts';
export { readBoardState } from './board-state.ts';
export { describeMismatch, playSvf, type SvfPlay } from './svf-play.ts';
export { type ChainPlace, keepAsSvf, loadAsSvf } from './svf-export.ts';
export { diagnose, withoutPod } from './diagnose.ts';
export { checkIntegrity, type Sweep, sweepTck } from './sweep.ts';
export {
  blankCheck,
  crcOfFlash,
  eraseFlash,
  fillFlash,
  type ReachedFlash,
  type BareFlash,
  reachFlash,
  reachThroughBridge,
  writeToFlash,
  readFromFlash,
  supplyLost,
  verifyFlash,
} from './flash.ts';
export {
  descriptionOf,
  handHex,
  type HandInstruction,
  handScansAsSvf,
  type HandStep,
  instructionsOf,
  scanByHand,
  typedBits,
} from './by-hand.ts';
export { Conversation, sendAll } from './conversation.ts';
export {
  replayRegion,
  type ReplaySources,
  replaySources,
  replayTestbench,
  sourcesBeside,
} from './replay.ts';
