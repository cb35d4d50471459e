import type { BuildOutput, Edit } from '../core/build/index.ts';
import type { FlashParameters, FlashPart } from '../core/flash/index.ts';
import type { ConfigStatus, StreamFacts } from '../core/fabric/index.ts';
import type { InterconnectResult } from '../core/boundary/index.ts';
import type { BypassTest, PlaceAnswer, Rung } from '../core/jtag/index.ts';
import type { Scan } from '../core/board/index.ts';
import type { KeepCheck, Sweep } from '../core/operations/index.ts';
import type { ExpectedChain } from './expected-chain.ts';
import type { KeepChoice } from './facts.ts';
import type { Comparison } from './operations/compare-flash.ts';
import type { RehearsalReport } from './operations/keep.ts';
import type { BlockSummary } from './operations/keep-subject.ts';
import type { LoadPlan, LoadReport } from './operations/load.ts';
import type { SvfState } from './svf-desk.ts';
import type { ProbeMap, RecorderStatus } from '../core/probes/index.ts';
import type { Job } from './jobs.ts';
import type { PodStatus } from './pod-link.ts';

/** A build as every station needs it; its messages and signals are fetched where they are shown. */
export interface BuildSummary {
  readonly id: number;
  readonly fingerprint: string;
  readonly part: string;
  readonly top: string;
  readonly created: string;
  readonly milliseconds: number;
  readonly good: boolean;
  readonly errors: number;
  readonly serious: number;
  readonly warnings: number;
  readonly resources: BuildOutput['resources'];
  readonly cores: readonly string[];
}

/** What the FPGA was last heard to run. */
export interface Running {
  readonly device: number;
  readonly fingerprint: string | null;
  readonly status: ConfigStatus;
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

export interface ArmedCapture {
  readonly recorder: string;
  readonly when: string;
  readonly keep: string;
  readonly before: number;
  readonly segments: number;
  /** Segment that is being filled, from 0. */
  readonly segment: number;
  /** Captures taken before this one in the same go. */
  readonly taken: number;
  readonly status: RecorderStatus | 'unreachable';
  readonly sampleRate: number;
  /** The sampling clock as it was just measured, in hertz; null while it does not answer. */
  readonly measuredHertz: number | null;
  readonly since: number;
  /**
   * What each comparator looks at, whether it is true now, and in how many samples it was; null while the sampling
   * clock does not answer.
   */
  readonly conditions: readonly { readonly label: string; readonly now: boolean; readonly seen: number }[] | null;
  /** Stage that is waited for, from 0, of how many. */
  readonly stage: number;
  readonly stages: number;
  /** Samples still to come before a trigger counts. */
  readonly left: number;
}

/**
 * Everything a page needs to draw itself but for the moving parts of the board. Sent whole whenever something changes.
 */
export interface WorkState {
  readonly project: { readonly id: number; readonly name: string; readonly part: string | null } | null;
  readonly latest: BuildSummary | null;
  /** The newest build that has a bitstream: what Load and Keep use. */
  readonly usable: BuildSummary | null;
  /** Inputs that changed since the latest build. */
  readonly stale: readonly Edit[];
  readonly pod: PodStatus;
  readonly scan: (Scan & { readonly time: string }) | null;
  readonly running: Running | null;
  /** Who has the pod now, where that is somebody else: what the board does meanwhile is not known. */
  readonly usedBy: string | null;
  /** `project` is the one it was written from; `by` whoever else wrote it. */
  readonly kept: {
    readonly fingerprint: string;
    readonly chip: string;
    readonly time: string;
    readonly layout: string | null;
    readonly project: number | null;
    readonly by: string | null;
  } | null;
  readonly keepChoice: KeepChoice;
  /** A write that ended in the middle; writing again goes on. */
  readonly brokenWrite: { readonly time: string; readonly phase: string; readonly message: string } | null;
  readonly rehearsal: RehearsalReport | null;
  /** What was last read from the flash, kept for saving. */
  readonly flashRead: { readonly start: number; readonly length: number; readonly time: string } | null;
  /** The last comparison without its bytes. */
  readonly comparison:
    | (Pick<Comparison, 'time' | 'names' | 'end' | 'sectorBytes' | 'bytesDiffer'> & { readonly places: number })
    | null;
  /**
   * What runs, where it is none of the project's builds; `map` from its `.probes.json`, null where that was not given.
   */
  readonly foreign: {
    readonly fingerprint: string;
    readonly map: ProbeMap | null;
    readonly name: string | null;
  } | null;
  readonly armed: readonly ArmedCapture[];
  /** Recorders that were armed and never read, some of which may be waited for now. */
  readonly armedBefore: readonly { readonly recorder: string; readonly when: string }[];
  readonly latestCapture: number | null;
  readonly planned: { readonly recorders: number; readonly levers: number; readonly gauges: number };
  /** `isHere`: done for the board and the project that are open now. */
  readonly jobs: readonly (Job & { readonly isHere: boolean })[];
  readonly chain: ExpectedChain;
  /** What was said of places of this board's chain. */
  readonly answers: readonly PlaceAnswer[];
  readonly ladder: { readonly rungs: readonly Rung[]; readonly time: string } | null;
  readonly sweep: (Sweep & { readonly time: string }) | null;
  readonly integrity: (BypassTest & { readonly hz: number; readonly time: string }) | null;
  readonly interconnect: (InterconnectResult & { readonly time: string }) | null;
  readonly loadPlan: LoadPlan;
  readonly loadReport: LoadReport | null;
  readonly svf: SvfState;
  readonly flash: FlashLook | null;
  readonly stageLog: { readonly name: string; readonly log: readonly string[]; readonly time: string } | null;
}
