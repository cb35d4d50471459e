// The Corvane family: part data, the bitstream and its configuration stream, and how a part is configured over JTAG.
// docs/silicon.md is the data sheet all of this follows.
export { INSTRUCTION, type Part, PARTS, KNOWN_DEVICES, partNamed, SPRIG, packagePins } from './parts.ts';
export { decodeStatus, STATUS, type ConfigStatus } from './status.ts';
export { packNetlist, unpackNetlist, type PinBinding, type FabricImage } from './pack.ts';
export { buildStream, FRAME_BYTES, frameCapacity, streamBytes, SYNC_WORD, StreamDecoder, type StreamEvent } from './stream.ts';
export { type Bitstream, readBitstream, writeBitstream } from './bitstream.ts';
export { configure, type ConfigureReport, readFingerprint, readStatus } from './configure.ts';
export { SpiOverJtag } from './spi-link.ts';
export { LINK } from './link-ports.ts';
