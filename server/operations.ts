import { diagnose, integrity, interconnect, sweep } from './operations/bench.ts';
import { build } from './operations/build.ts';
import { capture, haltNow, resumeCapture, triggerNow } from './operations/capture.ts';
import { driveNow } from './operations/drive.ts';
import { compareFlash } from './operations/compare-flash.ts';
import { flashStep } from './operations/flash-step.ts';
import { keep, lookAtFlash, rehearse } from './operations/keep.ts';
import { checksNow, load } from './operations/load.ts';
import { cheaperPlanNow, planCostNow, takeAlongNow } from './operations/plan.ts';
import { drivePin, lookAtPins, releasePins } from './operations/pins.ts';
import { setPower } from './operations/power.ts';
import { scan } from './operations/scan.ts';
import { stageAndRun } from './operations/stage.ts';
import { playFile } from './operations/svf.ts';
import { vectors } from './operations/vectors.ts';

/**
 * What a page can ask for. Each starts a job and returns its number, but for those whose names end in Now or Pins,
 * which answer at once.
 */
export const operations = {
  build,
  capture,
  cheaperPlanNow,
  checksNow,
  compareFlash,
  diagnose,
  driveNow,
  drivePin,
  flashStep,
  haltNow,
  integrity,
  interconnect,
  keep,
  load,
  lookAtFlash,
  lookAtPins,
  planCostNow,
  playFile,
  rehearse,
  releasePins,
  resumeCapture,
  scan,
  setPower,
  stageAndRun,
  sweep,
  takeAlongNow,
  triggerNow,
  vectors,
};
