export interface TimingPath {
  readonly from: string;
  readonly to: string;
  /** Register or memory of both ends, as the timing table names them; missing in builds of an older release. */
  readonly ends?: { readonly from: string; readonly to: string };
  readonly delay: number;
  /** Time to spare; null without a constraint. */
  readonly slack: number | null;
  /** Tables and chains on the way. */
  readonly levels: number;
  readonly steps: readonly Step[];
  /** Cycles that it may take, where that is not one. */
  readonly cycles?: number;
  /** It begins at another clock, of the same family: that one, and the nanoseconds between their nearest edges. */
  readonly between?: { readonly from: string; readonly time: number | null };
  /** What would shorten it; missing where nothing would, and in builds of an older release. */
  readonly advice?: string;
}

/** One piece of a path. `own` and `at` are nanoseconds; the place is that of the statement the piece was made for. */
export interface Step {
  readonly what: 'register' | 'LUT' | 'carry chain' | 'memory' | 'wire' | 'setup' | 'pin' | 'clock';
  readonly name: string;
  readonly own: number;
  readonly at: number;
  readonly fanout: number;
  readonly file: string;
  readonly line: number;
}
