import type { SourceFile } from '../hdl/index.ts';

/** What a table is run on. */
export interface VectorOptions {
  readonly top?: string;
  /** Name of the clock input; left out, it is the one input that clocks registers. */
  readonly clock?: string;
  readonly parameters?: Readonly<Record<string, bigint>>;
  /** Path of an instance inside the design, which is then simulated by itself; the top module where it is left out. */
  readonly instance?: string;
  /** Modules that describe cells of the part. */
  readonly cells?: readonly SourceFile[];
}
