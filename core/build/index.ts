// From a project's files to a bitstream: everything between reading sources and packing frames, and what is known of a
// build afterwards.
export {
  build,
  sourcesPrint,
  type BuildInputs,
  type BuildMemory,
  type BuildOutput,
  type BuildResult,
} from './build.ts';
export { judge, type JudgedMessage, lineOf } from './accept.ts';
export { applyInsertions } from './apply-fix.ts';
export { generatorInstance } from './write-generator.ts';
export { frequenciesByName, type GeneratorUse } from './generators.ts';
export { compareBuilds, type Comparison } from './compare.ts';
export { fingerprintOf } from './fingerprint.ts';
export { familiesOf } from './foreign.ts';
export { digestOf, type Edit, editsBetween, inputDigests, type InputDigests } from './inputs.ts';

export {
  type Project,
  type ProjectFile,
  projectFile,
  designSettings,
  filesForHardware,
  PROJECT_FILE,
  migrationOf,
  readProject,
  readProjectFile,
  type TextFile,
  writeProjectFile,
} from './project.ts';
export { parameterNumbers, parameterOf, WHOLE_NUMBER } from './parameters.ts';
export type { SignalInfo } from './signals.ts';
export { nameTrouble, readArchive, writeArchive } from './archive.ts';
export { decodeText } from './text-file.ts';
export { DesignPrices } from './price.ts';
export { readPorts, type SourcePorts } from './ports.ts';
export { warmUp } from './warm-up.ts';
export { setAside } from './timing-rules.ts';
