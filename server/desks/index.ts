// What each station of the page can ask for, one desk a station. A desk is given the few things it needs and changes no
// other's; long work is a job whose number is answered at once, and names that end in Now or Pins answer themselves.
import { removeImage, takeBitstream, takeDescription, takeImage, takeProject } from './added-files.ts';
import { type HandWish, instructionsNow, keptDescriptions, shiftNow } from './by-hand.ts';
import { climbNow, diagnose, integrity, interconnect, sweep } from './bench.ts';
import { build, newestBitstream } from './build.ts';
import { capture, haltNow, resumeCapture, triggerNow } from './capture.ts';
import { compareFlash } from './compare-flash.ts';
import { driveNow, stepNow } from './drive.ts';
import { flashStep } from './flash-step.ts';
import { keep, lookAtFlash, rehearse } from './keep.ts';
import { holdLowNow, lineFile, linesFrom, sayNow, sendFile, setLineNow, waitForText } from './line.ts';
import { checksNow, load } from './load.ts';
import type { Given, Named } from './needs.ts';
import { drivePin, lookAtPins, releasePins } from './pins.ts';
import { cheaperPlanNow, planCostNow, standstillNow, takeAlongNow } from './plan.ts';
import { setPower } from './power.ts';
import { type PodFileSource, podFilesNow, runAtPod, sendToPod } from './pod-files.ts';
import { scan } from './scan.ts';
import { stageAndRun } from './stage.ts';
import { exportSvf } from './svf-export.ts';
import { playFile } from './svf.ts';
import { simulateRecord, simulateTestbench } from './simulate.ts';
import { runTableOn, tablePlanNow, truthTableNow } from './table.ts';
import { vectors } from './vectors.ts';
import type { GivenFile } from '../threads/index.ts';

export type { CompareSource } from './compare-flash.ts';
export type { FlashStep } from './flash-step.ts';
export type { PinsNow } from './pins.ts';
export { ArmedRecorders, type ArmedCapture } from './armed.ts';
export { heardDeed } from './deeds.ts';
export { SvfDesk, type SvfFile, type SvfState } from './svf-desk.ts';

/** Arguments of an operation beside what its desk was given. */
type Rest<F> = F extends (on: infer _On, ...rest: infer R) => unknown ? R : never;

const benchDesk = (on: Given) => ({
  climbNow: () => climbNow(on),
  diagnose: () => diagnose(on),
  drivePin: (...rest: Rest<typeof drivePin>) => drivePin(on, ...rest),
  instructionsNow: (place: number) => instructionsNow(on, place),
  integrity: () => integrity(on),
  interconnect: () => interconnect(on),
  keptDescriptions: () => keptDescriptions(on),
  lookAtPins: () => lookAtPins(on),
  playFile: (...rest: Rest<typeof playFile>) => playFile(on, ...rest),
  podFilesNow: () => podFilesNow(on),
  releasePins: () => releasePins(on),
  runAtPod: (...rest: Rest<typeof runAtPod>) => runAtPod(on, ...rest),
  scan: () => scan(on),
  sendToPod: (source: PodFileSource) => sendToPod(on, source),
  setPower: (...rest: Rest<typeof setPower>) => setPower(on, ...rest),
  shiftNow: (wish: HandWish) => shiftNow(on, wish),
  sweep: () => sweep(on),
  takeDescription: (bytes: Uint8Array) => takeDescription(on, bytes),
});

const designDesk = (on: Given) => ({
  build: (project: Named) => build(on, project),
  newestBitstream: () => newestBitstream(on),
  takeProject: (bytes: Uint8Array) => takeProject(on, bytes),
  simulate: (...rest: Rest<typeof simulateTestbench>) => simulateTestbench(on, ...rest),
  simulateRecord: (...rest: Rest<typeof simulateRecord>) => simulateRecord(on, ...rest),
  vectors: (...rest: Rest<typeof vectors>) => vectors(on, ...rest),
});

const loadDesk = (on: Given) => ({
  checksNow: (...rest: Rest<typeof checksNow>) => checksNow(on, ...rest),
  exportSvf: (...rest: Rest<typeof exportSvf>) => exportSvf(on, ...rest),
  load: (...rest: Rest<typeof load>) => load(on, ...rest),
  removeImage: (id: number) => removeImage(on, id),
  takeBitstream: (file: GivenFile) => takeBitstream(on, file),
  stageAndRun: (...rest: Rest<typeof stageAndRun>) => stageAndRun(on, ...rest),
});

const keepDesk = (on: Given) => ({
  compareFlash: (...rest: Rest<typeof compareFlash>) => compareFlash(on, ...rest),
  flashStep: (...rest: Rest<typeof flashStep>) => flashStep(on, ...rest),
  keep: (...rest: Rest<typeof keep>) => keep(on, ...rest),
  lookAtFlash: () => lookAtFlash(on),
  rehearse: (...rest: Rest<typeof rehearse>) => rehearse(on, ...rest),
  takeImage: (file: GivenFile) => takeImage(on, file),
});

const probeDesk = (on: Given) => ({
  cheaperPlanNow: (...rest: Rest<typeof cheaperPlanNow>) => cheaperPlanNow(on, ...rest),
  planCostNow: (...rest: Rest<typeof planCostNow>) => planCostNow(on, ...rest),
  standstillNow: (...rest: Rest<typeof standstillNow>) => standstillNow(on, ...rest),
  takeAlongNow: (what: 'design' | 'wrapper') => takeAlongNow(on, what),
});

const captureDesk = (on: Given) => ({
  capture: (...rest: Rest<typeof capture>) => capture(on, ...rest),
  haltNow: (...rest: Rest<typeof haltNow>) => haltNow(on, ...rest),
  resumeCapture: (...rest: Rest<typeof resumeCapture>) => resumeCapture(on, ...rest),
  triggerNow: (...rest: Rest<typeof triggerNow>) => triggerNow(on, ...rest),
});

const driveDesk = (on: Given) => ({
  driveNow: (...rest: Rest<typeof driveNow>) => driveNow(on, ...rest),
  stepNow: (...rest: Rest<typeof stepNow>) => stepNow(on, ...rest),
  runTableOn: (...rest: Rest<typeof runTableOn>) => runTableOn(on, ...rest),
  truthTableNow: (...rest: Rest<typeof truthTableNow>) => truthTableNow(on, ...rest),
  tablePlanNow: (...rest: Rest<typeof tablePlanNow>) => tablePlanNow(on, ...rest),
});

const lineDesk = (on: Given) => ({
  holdLowNow: (...rest: Rest<typeof holdLowNow>) => holdLowNow(on, ...rest),
  lineFile: (...rest: Rest<typeof lineFile>) => lineFile(on, ...rest),
  linesFrom: (...rest: Rest<typeof linesFrom>) => linesFrom(on, ...rest),
  sayNow: (...rest: Rest<typeof sayNow>) => sayNow(on, ...rest),
  sendFile: (file: GivenFile) => sendFile(on, file),
  setLineNow: (...rest: Rest<typeof setLineNow>) => setLineNow(on, ...rest),
  waitForText: (...rest: Rest<typeof waitForText>) => waitForText(on, ...rest),
});

/** One desk a station. */
export const desksOf = (given: Given) => ({
  bench: benchDesk(given),
  design: designDesk(given),
  load: loadDesk(given),
  keep: keepDesk(given),
  probe: probeDesk(given),
  capture: captureDesk(given),
  drive: driveDesk(given),
  line: lineDesk(given),
});

export type Desks = ReturnType<typeof desksOf>;
