// All that differs from one family of parts to another, behind one seam (family.ts), a folder for each family. Knows
// neither boards nor what is built for them.
export { type Bitstream, readBitstream, writeBitstream } from './bitstream.ts';
export { type ClockGenerator, type Delays, type MemoryCells, settingOf } from './cells.ts';
export { NBITS } from './container.ts';
export type {
  BootLayout,
  DebugAccess,
  Design,
  Family,
  Fpga,
  Part,
  ScanScript,
  SpiScript,
  StreamFacts,
} from './family.ts';
export { foreignFamily, foreignSettings, knownFrom } from './foreign/index.ts';
export { type IoStandard, namedIn, type PinBinding, PULLS, type Pull, SLEWS, type Slew } from './io.ts';
export {
  allCells,
  cellsOf,
  devicesOf,
  FAMILIES,
  familyOf,
  memoriesOf,
  misordered,
  partNamed,
  partsOf,
  partWithIdcode,
  placedPorts,
  standardNamed,
  streamFacts,
  usualPart,
} from './lookup.ts';
export { banksOf, type PackageDrawing, type PackagePin } from './package.ts';
export { readAgainLater, readLater, readNow } from './register.ts';
export type { ConfigStatus } from './status.ts';
