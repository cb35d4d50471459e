import type { InterconnectResult } from '../../core/boundary/index.ts';
import type { Scan } from '../../core/board/index.ts';
import type { Edit } from '../../core/build/index.ts';
import type { BypassTest, PlaceAnswer, Rung } from '../../core/jtag/index.ts';
import type { Sweep } from '../../core/operations/index.ts';
import type { ProbeMap } from '../../core/probes/index.ts';
import type {
  Comparison,
  ExpectedChain,
  FlashLook,
  LoadPlan,
  LoadReport,
  RehearsalReport,
  Running,
} from '../board/index.ts';
import type { ArmedCapture, SvfState } from '../desks/index.ts';
import type { Job } from '../jobs/index.ts';
import type { LineState } from '../line/index.ts';
import type { PodStatus } from '../link/index.ts';
import type { BuildSummary, KeepChoice } from '../store/index.ts';

/**
 * Everything a page needs to draw itself but for the moving parts of the board. Sent whole whenever something changes.
 */
export interface WorkState {
  readonly project: { readonly id: number; readonly name: string; readonly part: string | null } | null;
  readonly latest: BuildSummary | null;
  /** The newest build that has a bitstream: what Load and Keep use. */
  readonly usable: BuildSummary | null;
  /** Versions of the project's files by name. */
  readonly files: Readonly<Record<string, string>>;
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
  readonly line: LineState;
  readonly stageLog: { readonly name: string; readonly log: readonly string[]; readonly time: string } | null;
}
