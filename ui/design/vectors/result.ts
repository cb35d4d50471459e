import type { KeptResult } from '../../../server/index.ts';

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
