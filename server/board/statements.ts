import type { BoundaryScan } from '../../core/boundary/index.ts';
import type { ConfigStatus, StreamFacts } from '../../core/families/index.ts';
import type { FlashParameters, FlashPart } from '../../core/flash/index.ts';
import type { MemoryImage } from '../../core/images/index.ts';
import type { AfterLoad, Check, KeepBlock, KeepCheck, Load, Rehearsal } from '../../core/operations/index.ts';
import type { Problem } from '../../core/result.ts';

/** What the FPGA was last heard to run. */
export interface Running {
  readonly device: number;
  readonly fingerprint: string | null;
  /** Whether a design runs; null where the part does not tell. */
  readonly done: boolean | null;
  /** Null for a part whose configuration only its own tools know. */
  readonly status: ConfigStatus | null;
}

/** The flash as it was last asked, and what writing the newest build would do. Times in microseconds. */
export interface FlashLook {
  readonly time: string;
  readonly device: number;
  readonly part: FlashPart;
  readonly parameters: FlashParameters | null;
  readonly status: number;
  readonly isProtected: boolean;
  readonly bootSource: 'flash' | 'jtag';
  readonly checks: readonly KeepCheck[];
  /** Where the boot header says that an update lies. */
  readonly update: number | null;
  /** What stands at address 0. */
  readonly golden: StreamFacts;
  readonly blocks: readonly BlockSummary[];
  /** Null where a check forbids the write. */
  readonly plan: {
    readonly sectorBytes: number;
    readonly sectors: readonly { readonly address: number; readonly action: 'program' | 'erase' | 'keep' }[];
    readonly shared: number;
    readonly erases: number;
    readonly pages: number;
    readonly typical: number;
    readonly worst: number;
  } | null;
}

/** One block as the page and the record show it. */
export interface BlockSummary {
  readonly name: string;
  readonly role: KeepBlock['role'];
  readonly address: number;
  readonly bytes: number;
  readonly sha256: string;
  /** Of an image; null for data. */
  readonly fingerprint: string | null;
}

/** What goes where: a place in the chain, null for the only device that fits; the newest build, or an uploaded file. */
export interface LoadStep {
  readonly device: number | null;
  readonly source: { readonly kind: 'build' } | { readonly kind: 'image'; readonly id: number };
}

export interface LoadPlan {
  readonly steps: readonly LoadStep[];
  readonly verify: boolean;
}

/** The newest build into the only part that fits. */
export const DEFAULT_PLAN: LoadPlan = { steps: [{ device: null, source: { kind: 'build' } }], verify: false };

/** How each step of the last load went. */
export interface LoadReport {
  readonly time: string;
  readonly steps: readonly {
    readonly device: number | null;
    readonly source: string;
    readonly fingerprint: string;
    readonly checks: readonly Check[];
    readonly load: Load | null;
    readonly after: AfterLoad | null;
    readonly problem: Problem | null;
  }[];
}

/** What a rehearsal was to show, and what it showed. */
export interface RehearsalReport extends Rehearsal {
  readonly time: string;
  /** Fingerprint that should have booted; null where nobody knows. */
  readonly wanted: string | null;
}

/** Pins driven by EXTEST. Ends by itself when anything else uses the cable, since that resets the TAPs. */
export interface PinSession {
  readonly scan: BoundaryScan;
  readonly turn: number;
  readonly driven: ReadonlyMap<string, 0 | 1>;
}

/** Two images beside each other. */
export interface Comparison {
  readonly time: string;
  readonly names: readonly [string, string];
  readonly images: readonly [MemoryImage, MemoryImage];
  readonly end: number;
  readonly sectorBytes: number;
  /** Stretches that differ, nearby ones told as one. */
  readonly differences: readonly {
    readonly start: number;
    readonly length: number;
    readonly only: 'first' | 'second' | null;
  }[];
  readonly bytesDiffer: number;
}
