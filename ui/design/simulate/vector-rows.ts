import type { KeptResult } from '../../../server/index.ts';
import type { Incident } from '../../wave/index.ts';

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

/** Rows that failed, at the steps of the trace where they ended. */
export function incidentsOf({ failures, ends = [] }: KeptResult): Incident[] {
  const rows = new Map<number, string[]>();
  for (const { row, port, actual } of failures) rows.set(row, [...(rows.get(row) ?? []), `${port} is ${actual}`]);
  return [...rows].flatMap(([row, said]) => {
    const tick = ends[row - 1];
    return tick === undefined ? [] : [{ tick, text: `row ${row}: ${said.join(', ')}`, isBad: true }];
  });
}
