// The Corvane family: part data, the bitstream and its configuration stream, and how a part is configured over JTAG.
// docs/silicon.md is the data sheet all of this follows.
export {
  INSTRUCTION,
  type Part,
  PARTS,
  KNOWN_DEVICES,
  partNamed,
  SPRIG,
  SPRIG_INSTRUCTION,
  type PackageName,
} from './parts.ts';
export { boundaryPins, CELLS_A_PIN, CONTROL_CELL, INPUT_CELL, OUTPUT_CELL } from './boundary.ts';
export { bsdlText, DESCRIBED_PARTS } from './bsdl-text.ts';
export { BANKS, packageDrawing, type PackageDrawing, type PackagePin } from './packages.ts';
export {
  DEFAULT_DRIVE,
  DEFAULT_STANDARD,
  PULLS,
  type Pull,
  readLevel,
  SLEWS,
  type Slew,
  STANDARDS,
  standardNamed,
  type IoStandard,
} from './standards.ts';
export { decodeStatus, STATUS, STATUS_LENGTH, type ConfigStatus } from './status.ts';
export { packNetlist, unpackNetlist, type PinBinding, type FabricImage } from './pack.ts';
export { buildStream, FRAME_BYTES, frameCapacity, streamBytes, StreamDecoder, type StreamEvent } from './stream.ts';
export { type Bitstream, readBitstream, writeBitstream } from './bitstream.ts';
export { configure, readFingerprint, readStatus, readStatusLater } from './configure.ts';
export { SpiOverJtag } from './spi-link.ts';
export { LINK } from './link-ports.ts';
export { verifyConfiguration } from './read-back.ts';
export { clockPins, portPins } from './clock-pins.ts';
export { NBITS } from './container.ts';
export {
  BOOT_HEADER_BYTES,
  BOOT_HEADER_ROOM,
  bootHeaderAddress,
  GOLDEN_ADDRESS,
  readBootHeader,
  writeBootHeader,
} from './boot.ts';
export { arrangementOf, describeArrangement } from './order-hint.ts';
export { type StreamFacts, streamFacts } from './stream-facts.ts';
