import type { StepRecord } from '../../core/wave/index.ts';

/** What a run gave, row by row. */
export interface KeptResult {
  readonly passed: number;
  readonly failed: number;
  readonly failures: readonly { readonly row: number; readonly port: string; readonly actual: string }[];
  readonly vectors: {
    readonly columns: readonly (
      | { readonly kind: 'cycles' }
      | { readonly kind: 'input' | 'expect'; readonly port: string }
    )[];
    readonly rows: readonly { readonly row: number; readonly texts: readonly string[] }[];
  };
  readonly actual: readonly (readonly (string | null)[])[];
  /** Step of the trace at which each row ended; absent in runs of before. */
  readonly ends?: readonly number[];
  readonly trace: StepRecord & { readonly cut: boolean };
}
