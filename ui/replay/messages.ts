import type { Project } from '../../core/build/index.ts';
import type { Proposal } from '../../core/replay/index.ts';
import type { Result } from '../../core/result.ts';

/** A design, and what is wanted of it. */
export interface ProposeAsk {
  readonly project: Project;
  readonly see: readonly string[];
  readonly insist: readonly string[];
  readonly never: readonly string[];
}

export interface Proposed {
  /** Full name of the sampling clock, and the clocks of all registers in what is to be seen. */
  readonly clock: string;
  readonly clocks: readonly string[];
  /** Most bits first. */
  readonly proposals: readonly Proposal[];
}

/** What the worker offers its page. */
export interface PlanWorker {
  propose(ask: ProposeAsk): Promise<Result<Proposed>>;
}
