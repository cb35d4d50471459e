// Changes to the rows of a view: plain functions from rows to rows.
import {
  freshId,
  type GroupRow,
  type LeafRow,
  leavesOf,
  nameOfRow,
  type Row,
  type SignalRow,
} from '../../core/wave/index.ts';
import type { OpenSignal } from './messages.ts';

const mapLeaves = (rows: readonly Row[], change: (row: LeafRow) => readonly LeafRow[]): Row[] =>
  rows.flatMap((row): Row[] => {
    if (row.kind !== 'group') return [...change(row)];
    const inner = row.rows.flatMap((one) => [...change(one)]);
    return inner.length > 0 ? [{ ...row, rows: inner }] : [];
  });

/** Takes rows away; a group that is left empty goes with them. */
export const withoutRows = (rows: readonly Row[], ids: ReadonlySet<string>): Row[] =>
  mapLeaves(
    rows.filter(({ id }) => !ids.has(id)),
    (row) => (ids.has(row.id) ? [] : [row]),
  );

export const changedRow = (
  rows: readonly Row[],
  id: string,
  change: Partial<Pick<SignalRow, 'label' | 'radix' | 'style'>>,
): Row[] =>
  rows
    .map((row) =>
      row.kind === 'group' && row.id === id
        ? { ...row, ...(change.label === undefined ? {} : { label: change.label }) }
        : row,
    )
    .flatMap((row) => mapLeaves([row], (leaf) => [leaf.id === id ? ({ ...leaf, ...change } as LeafRow) : leaf]));

export const toggledGroup = (rows: readonly Row[], id: string): Row[] =>
  rows.map((row) => (row.kind === 'group' && row.id === id ? { ...row, open: !row.open } : row));

/** Puts chosen rows into one group, where the first of them stood. */
export function grouped(rows: readonly Row[], ids: ReadonlySet<string>): Row[] {
  const chosen = leavesOf(rows).filter(({ id }) => ids.has(id));
  const [first] = chosen;
  if (!first) return [...rows];
  const place = rows.findIndex(
    (row) => row.id === first.id || (row.kind === 'group' && row.rows.some(({ id }) => id === first.id)),
  );
  const group: GroupRow = { kind: 'group', id: freshId(rows, 'group'), label: 'group', open: true, rows: chosen };
  const before = withoutRows(rows.slice(0, place), ids);
  return [...before, group, ...withoutRows(rows.slice(place), ids)];
}

export const ungrouped = (rows: readonly Row[], id: string): Row[] =>
  rows.flatMap((row) => (row.kind === 'group' && row.id === id ? row.rows : [row]));

/**
 * Joins chosen signals into one value, the uppermost in the highest bits; replaces the first and leaves out the others.
 */
export function joined(rows: readonly Row[], ids: ReadonlySet<string>): Row[] {
  const chosen = leavesOf(rows).filter((row): row is SignalRow => row.kind === 'signal' && ids.has(row.id));
  const [first] = chosen;
  if (!first || chosen.length < 2) return [...rows];
  const parts = [...chosen].reverse().flatMap((row) => row.parts);
  const row: SignalRow = { kind: 'signal', id: freshId(rows, 'joined'), parts };
  return mapLeaves(rows, (leaf) => (leaf.id === first.id ? [row] : ids.has(leaf.id) ? [] : [leaf]));
}

/** A row of several bits as a row for each, highest first; of a joined one, its parts. */
export function split(rows: readonly Row[], id: string): Row[] {
  return mapLeaves(rows, (leaf) => {
    if (leaf.id !== id || leaf.kind !== 'signal') return [leaf];
    if (leaf.parts.length > 1)
      return [...leaf.parts]
        .reverse()
        .map((part, i): SignalRow => ({ kind: 'signal', id: `${id}.${i}`, parts: [part] }));
    const [{ signal, lo, width }] = leaf.parts as [SignalRow['parts'][number]];
    if (width === 1) return [leaf];
    return Array.from({ length: width }, (_, i): SignalRow => {
      const bit = lo + width - 1 - i;
      return {
        kind: 'signal',
        id: `${id}.${bit}`,
        parts: [{ signal, lo: bit, width: 1 }],
        label: `${nameOfRow(leaf)}[${bit}]`,
      };
    });
  });
}

/** Moves a row to where another stands; a row moved onto one inside a group joins that group. */
export function moved(rows: readonly Row[], id: string, onto: string): Row[] {
  if (id === onto) return [...rows];
  const row = rows.find((one) => one.id === id) ?? leavesOf(rows).find((one) => one.id === id);
  if (!row) return [...rows];
  const order = flat(rows);
  const isDown = order.indexOf(id) < order.indexOf(onto);
  const rest = row.kind === 'group' ? rows.filter((one) => one.id !== id) : withoutRows(rows, new Set([id]));
  const put = <T extends { readonly id: string }>(list: readonly T[], what: T): T[] =>
    list.flatMap((one) => (one.id === onto ? (isDown ? [one, what] : [what, one]) : [one]));
  if (rest.some((one) => one.id === onto)) return put(rest, row as Row);
  if (row.kind === 'group') return [...rows];
  return rest.map((one) => (one.kind === 'group' ? { ...one, rows: put(one.rows, row as LeafRow) } : one));
}

/** Ids from top to bottom, closed groups without their rows. */
export const flat = (rows: readonly Row[]): string[] =>
  rows.flatMap((row) =>
    row.kind === 'group' ? [row.id, ...(row.open ? row.rows.map(({ id }) => id) : [])] : [row.id],
  );

/** Width of a row's value in bits; 0 for what has none. */
export const widthOf = (row: Row): number =>
  row.kind === 'signal' ? row.parts.reduce((sum, { width }) => sum + width, 0) : 0;

/** The signal a whole row stands for; null for parts and joined ones. */
export function signalOf(row: Row, signals: readonly OpenSignal[]): OpenSignal | null {
  if (row.kind !== 'signal' || row.parts.length > 1) return null;
  const [part] = row.parts as [SignalRow['parts'][number]];
  const signal = signals.find(({ name }) => name === part.signal);
  return signal && part.lo === 0 && part.width === signal.width ? signal : null;
}
