/** What is to be seen of a project's design, and how it may be recorded; kept in this browser. */
export interface Chosen {
  /** Full paths of instances or signals. */
  readonly see: readonly string[];
  /** Signals that are recorded whatever follows, and those that are not. */
  readonly insist: readonly string[];
  readonly never: readonly string[];
  /** Bits at most; null for what is usual. */
  readonly bits: number | null;
  readonly depth: number;
  /** Whether registers are read once, at the trigger; null where nothing was said. */
  readonly reads: boolean | null;
}

export const NOTHING: Chosen = { see: [], insist: [], never: [], bits: null, depth: 1024, reads: null };
