import type { HardwareRow, Vectors } from '../../core/vectors/index.ts';
import type { Problem } from '../../core/result.ts';

/** A table of vectors that was run on hardware, beside what the same rows gave in simulation. */
export interface KeptTable {
  /** The build that ran. */
  readonly fingerprint: string;
  readonly columns: readonly (
    | { readonly kind: 'cycles' }
    | { readonly kind: 'input' | 'expect'; readonly port: string; readonly width: number }
  )[];
  /** Cells as they were written, by row. */
  readonly texts: readonly (readonly string[])[];
  readonly rows: readonly HardwareRow[];
  readonly passed: number;
  readonly failed: number;
  readonly stopped: Problem | 'cancelled' | 'difference' | null;
  readonly notAsked: number;
  /** Which time it was, of how often it was to be run. */
  readonly time: number;
  readonly times: number;
  /** What outputs were in simulation, by row and column; why there is none. */
  readonly simulated: readonly (readonly (string | null)[])[] | null;
  readonly whyNotSimulated: string | null;
  /** Rows and outputs that are one thing in simulation and another one on hardware. */
  readonly differences: readonly { readonly row: number; readonly port: string }[];
}

export const keptColumns = ({ columns }: Vectors): KeptTable['columns'] =>
  columns.map((column) => (column.kind === 'cycles' ? { kind: 'cycles' } : { ...column }));
