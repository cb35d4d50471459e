import type { RecorderStatus } from '../../core/probes/index.ts';

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

/** Recorders that are waited for now. */
export class ArmedRecorders {
  list: readonly ArmedCapture[] = [];
  /** Those that are to be stopped and read at the next look. */
  readonly halts = new Set<string>();
}
