import type { FoundDevice } from '../jtag/index.ts';
import { item } from '../lists.ts';
import type { ExpectedDevice } from './file.ts';

/**
 * How one place of the expected chain and one that answers go together. Indices are places; null where there is none.
 */
export interface ChainRow {
  readonly kind: 'same' | 'other-version' | 'other-part' | 'swapped' | 'missing' | 'extra';
  readonly expected: number | null;
  readonly found: number | null;
}

const REPLACE = 1.5;
const VERSION = 0.1;

/**
 * Lays the expected chain beside what answers so that as little as possible differs; two devices that changed places
 * are told as such. Rows run from TDO on.
 *
 * @source R. A. Wagner, M. J. Fischer, The string-to-string correction problem, 1974
 */
export function compareChains(expected: readonly ExpectedDevice[], found: readonly FoundDevice[]): ChainRow[] {
  const cost: number[][] = Array.from({ length: expected.length + 1 }, (_, i) =>
    Array.from({ length: found.length + 1 }, (_, j) => (i === 0 ? j : j === 0 ? i : 0)),
  );
  const at = (i: number, j: number): number => cost[i]?.[j] ?? Number.POSITIVE_INFINITY;
  const pair = (i: number, j: number): number => likeness(item(expected, i), item(found, j));
  for (let i = 1; i <= expected.length; i++)
    for (let j = 1; j <= found.length; j++)
      item(cost, i)[j] = Math.min(at(i - 1, j) + 1, at(i, j - 1) + 1, at(i - 1, j - 1) + pair(i - 1, j - 1));
  const rows: ChainRow[] = [];
  for (let i = expected.length, j = found.length; i > 0 || j > 0; ) {
    if (i > 0 && j > 0 && at(i, j) === at(i - 1, j - 1) + pair(i - 1, j - 1)) {
      const apart = pair(i - 1, j - 1);
      rows.push({
        kind: apart === 0 ? 'same' : apart === VERSION ? 'other-version' : 'other-part',
        expected: --i,
        found: --j,
      });
    } else if (i > 0 && at(i, j) === at(i - 1, j) + 1) rows.push({ kind: 'missing', expected: --i, found: null });
    else rows.push({ kind: 'extra', expected: null, found: --j });
  }
  return withSwaps(rows.reverse(), expected, found);
}

/** 0 for the same device, a little for another version of it, more than leaving one out for another one. */
function likeness(expected: ExpectedDevice, found: FoundDevice): number {
  const code = expected.idcode === null ? null : Number(expected.idcode);
  if (code === null || found.idcode === null)
    return code === found.idcode && (expected.irLength === found.irLength || found.irLength === null) ? 0 : REPLACE;
  if (((code ^ found.idcode) & 0x0fffffff) !== 0) return REPLACE;
  return code === found.idcode ? 0 : VERSION;
}

/** A device that is missing in one place and extra in another, with one that took its place, has been swapped. */
function withSwaps(
  rows: readonly ChainRow[],
  expected: readonly ExpectedDevice[],
  found: readonly FoundDevice[],
): ChainRow[] {
  const missing = rows.filter((row) => row.kind === 'missing' || row.kind === 'other-part');
  const extra = rows.filter((row) => row.kind === 'extra' || row.kind === 'other-part');
  const swapped = new Map<number, number>();
  for (const { expected: i } of missing) {
    const match = extra.find(
      ({ found: j }) =>
        i !== null &&
        j !== null &&
        ![...swapped.values()].includes(j) &&
        likeness(item(expected, i), item(found, j)) < 1,
    );
    if (i !== null && match?.found !== null && match !== undefined) swapped.set(i, match.found);
  }
  const taken = new Set(swapped.values());
  return rows.flatMap((row): ChainRow[] => {
    if (row.kind === 'same' || row.kind === 'other-version') return [row];
    const out: ChainRow[] = [];
    const to = row.expected === null ? undefined : swapped.get(row.expected);
    if (row.expected !== null && to !== undefined) out.push({ kind: 'swapped', expected: row.expected, found: to });
    const foundElsewhere = row.found !== null && taken.has(row.found);
    if (to === undefined && row.expected !== null && (row.found === null || foundElsewhere))
      out.push({ kind: 'missing', expected: row.expected, found: null });
    if (to !== undefined && row.found !== null && !foundElsewhere)
      out.push({ kind: 'extra', expected: null, found: row.found });
    if (to === undefined && !foundElsewhere && row.found !== null)
      out.push({ kind: row.expected === null ? 'extra' : 'other-part', expected: row.expected, found: row.found });
    return out;
  });
}

/** A row as half a sentence. */
export function describeRow(
  { kind, expected, found }: ChainRow,
  wanted: readonly ExpectedDevice[],
  devices: readonly FoundDevice[],
): string {
  const want =
    expected === null ? '' : (wanted[expected]?.part ?? wanted[expected]?.idcode ?? 'a device without IDCODE');
  const got = found === null ? '' : (devices[found]?.part ?? 'an unknown device');
  switch (kind) {
    case 'same':
      return `${want} at place ${found}`;
    case 'other-version':
      return `${want} at place ${found} has another version`;
    case 'other-part':
      return `${got} instead of ${want} at place ${found}`;
    case 'swapped':
      return `${want} is at place ${found} instead of ${expected}`;
    case 'missing':
      return `${want} is missing from place ${expected}`;
    case 'extra':
      return `${got} at place ${found} is not expected`;
  }
}
