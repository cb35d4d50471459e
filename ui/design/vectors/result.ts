/** A kept run as it comes from the server: big integers are decimal text. */
export interface KeptRun {
  readonly file: string;
  readonly created: string;
  readonly result: KeptResult;
}

export interface KeptTrace {
  readonly signals: readonly {
    readonly name: string;
    readonly width: number;
    readonly names: readonly { readonly value: string; readonly name: string }[];
    readonly times: readonly number[];
    readonly values: readonly { readonly value: string; readonly unknown: string }[];
  }[];
  readonly end: number;
  readonly cut: boolean;
}

interface KeptResult {
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
  readonly trace: KeptTrace;
}

/** Rows with each cell's text, what the output was, and whether it failed. */
export function resultRows({ vectors, actual, failures }: KeptResult) {
  const bad = new Map<number, Map<string, string>>();
  for (const { row, port, actual: was } of failures)
    bad.set(row, (bad.get(row) ?? new Map<string, string>()).set(port, was));
  return vectors.rows.map(({ row, texts }, i) => ({
    row,
    failed: bad.has(row),
    cells: vectors.columns.map((column, k) => {
      const was = column.kind === 'expect' ? (bad.get(row)?.get(column.port) ?? null) : null;
      return { text: texts[k] ?? '', actual: was ?? actual[i]?.[k] ?? null, failed: was !== null };
    }),
  }));
}
