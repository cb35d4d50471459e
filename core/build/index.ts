// From sources to a bitstream: front end, debug cores, optimisation, placement on pins, packing. Pure; runs in a worker.
export { build, type BuildInputs, type BuildOutput, type BuildResult, type SignalInfo } from './build.ts';
export { fingerprintOf } from './fingerprint.ts';
export { parsePins, type PinRow, writePins } from './pins.ts';
export { type Project, type ProjectFile, projectFile, readProject } from './project.ts';
