import type { SpiPort } from '../flash/index.ts';
import type { ChainLink, KnownDevice, ScanCounts } from '../jtag/index.ts';
import type { Netlist } from '../netlist/index.ts';
import type { Watch } from '../progress.ts';
import type { Problem, Result } from '../result.ts';
import type { Bits } from '../bits/index.ts';
import type { ClockGenerator, Delays, MemoryCells } from './cells.ts';
import type { IoStandard, PinBinding } from './io.ts';
import type { PackageDrawing } from './package.ts';
import type { ReadRegister } from './register.ts';
import type { ConfigStatus } from './status.ts';

/**
 * All that differs from one family of parts to another. Everything else in the product is written against this and
 * knows no part by its name.
 */
export interface Family {
  readonly name: string;
  /** Everything of the family that can stand in a chain, for recognition by IDCODE. */
  readonly devices: readonly KnownDevice[];
  /** Packages of a part, the usual one first; none for a part of another family. */
  packagesOf(part: string): readonly string[];
  drawing(packageName: string): PackageDrawing;
  /** Boundary-scan description of a part in a package, as a BSDL file has it; null for what is not of this family. */
  describe(part: string, packageName: string): string | null;
  /** How the hub of the debug cores in a part's fabric is reached; null for a part that has none, or of another family. */
  debug(part: string): DebugAccess | null;
  /** How its parts are built for and configured; null for a family that no design is built for here. */
  readonly fpga: Fpga | null;
}

/** How the hub of the debug cores in a part's fabric is reached, and whether a design runs. */
export interface DebugAccess {
  /** Of the instruction that selects the user register. */
  readonly opcode: number | bigint;
  /** Bits that the part puts between that register and TDO. */
  readonly late: number;
  /** Whether a design runs; null where the part does not tell. */
  readonly runs: ReadRegister<boolean> | null;
  /** A person has named all that, and may have misread a data sheet. */
  readonly isNamed: boolean;
}

/** A part that designs are built for. */
export interface Part {
  readonly name: string;
  readonly family: Fpga;
  readonly idcode: number;
  readonly irLength: number;
  /** Opcode of IDCODE. */
  readonly idcodeOpcode: number;
  /** Look-up tables of four inputs, and as many flip-flops. */
  readonly luts: number;
  readonly blockRams: number;
  readonly clockGenerators: number;
  /** Cases it is sold in, the usual one first. */
  readonly packages: readonly string[];
  /** Its flash pins are also pins of the design: reaching the flash stops what runs. */
  readonly flashStopsDesign: boolean;
}

/** A built design, ready to go into a part. */
export interface Design {
  readonly netlist: Netlist;
  readonly pins: readonly PinBinding[];
}

/** One port bit of a design on its pin. `width` is the number of pins of the port. */
export interface PlacedPort {
  readonly port: string;
  readonly bit: number;
  readonly width: number;
  readonly pin: string;
  /** Its edges clock registers. */
  readonly isClock: boolean;
}

/** What a configuration stream says of itself. */
export interface StreamFacts {
  readonly idcode: number | null;
  /** 32 hexadecimal digits. */
  readonly fingerprint: string | null;
  /** It has a beginning and an end and its check is right: a part of that IDCODE would run it. */
  readonly isWhole: boolean;
}

/** The stream that configures a part. */
interface StreamFormat {
  /** Length in bytes of every stream for a part. */
  bytes(part: Part): number;
  /** Fails with `does-not-fit` where the part has no room for it. `fingerprint` is 16 bytes. */
  make(part: Part, design: Design, fingerprint: Uint8Array): Result<Uint8Array>;
  /** Reads a stream as a part would, from bytes that may go on behind it. */
  facts(bytes: Uint8Array): StreamFacts;
  /** What to do about a stream whose bits or bytes stand in another order, in a sentence; null where none does. */
  misordered(bytes: Uint8Array): string | null;
  /** Where the ports of the design in a stream are; none where it holds no design. */
  ports(part: Part, stream: Uint8Array): readonly PlacedPort[];
}

/** What became of configuring a part. */
export interface ConfigureReport {
  readonly done: boolean;
  readonly status: ConfigStatus;
  readonly counts: ScanCounts;
  readonly problem: Problem | null;
}

/** What goes into a part: the stream, and what is said of it. */
export interface StreamFor {
  readonly part: string;
  /** 32 hexadecimal digits. */
  readonly fingerprint: string;
  readonly stream: Uint8Array;
}

/** Where the flash behind a part says what is to be booted. */
export interface BootLayout {
  /** Where a part boots from without a header, and falls back to. */
  readonly golden: number;
  readonly headerBytes: number;
  /** Bytes of the chip that hold the header alone. */
  readonly headerRoom: number;
  headerAddress(chipBytes: number): number;
  writeHeader(update: number): Uint8Array;
  /** Address of the update; null where there is no header, or one that was not written to its end. */
  readHeader(bytes: Uint8Array): number | null;
}

/** Scans that are written down instead of carried out, with what must come back. */
export interface ScanScript {
  select(opcode: number): void;
  /** `expected` has a bit for each that comes back; `care` a 1 for each that counts, null for all. */
  data(tdi: Bits, expected?: { readonly tdo: Bits; readonly care: Bits | null }): void;
  wait(time: { readonly microseconds: number } | { readonly clocks: number }): void;
}

/** A flash's commands written down. `care` has a 1 for each bit of the answer that counts; null for all. */
export interface SpiScript {
  send(bytes: Uint8Array): void;
  expect(command: Uint8Array, answer: Uint8Array, care: Uint8Array | null): void;
}

/** The flash behind a part. */
interface FlashBehind {
  port(link: ChainLink): SpiPort;
  /** The way to it, written down, on a chain with so many devices. */
  script(script: ScanScript, devices: number): SpiScript;
  readonly boot: BootLayout;
}

/** How the parts of a family are built for, configured and spoken to. */
export interface Fpga {
  readonly name: string;
  readonly parts: readonly Part[];
  /** The part that is proposed where nothing else is said. */
  readonly usualPart: string;
  /** Speed grades, slowest first. */
  readonly grades: readonly number[];
  readonly standards: readonly IoStandard[];
  drawing(packageName: string): PackageDrawing;
  delays(grade: number): Delays;
  readonly memories: MemoryCells;
  /** Null where its parts have none. */
  readonly clockGenerator: ClockGenerator | null;
  readonly stream: StreamFormat;
  readonly status: ReadRegister<ConfigStatus>;
  /** Fingerprint of the design that runs, 32 hexadecimal digits; null when none does. */
  readonly print: ReadRegister<string | null>;
  /** Writes a stream into the configuration memory of a part and starts it. */
  configure(link: ChainLink, design: StreamFor, watch: Watch): Promise<ConfigureReport>;
  /** Compares the configuration memory of a running part with its stream. Resolves to the bits compared. */
  verify(link: ChainLink, design: StreamFor, watch: Watch): Promise<Result<number>>;
  /** The same as `configure`, written down; times are the longest ones. */
  scriptLoad(script: ScanScript, design: StreamFor): void;
  /** The flash that its parts can boot from and reach; null where they have none. */
  readonly flash: FlashBehind | null;
}
