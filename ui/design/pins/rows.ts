import type { PinEntry, PortNeed } from '../../../core/constraints/index.ts';

/** The table as it is edited: every bit of every port has a row, placed or not; rows of ports that are gone stay. */
export function rowsFor(entries: readonly PinEntry[], ports: readonly PortNeed[]): PinEntry[] {
  const known = new Map(entries.map((entry) => [entry.name, entry]));
  const named = ports.flatMap(({ name, width }) =>
    Array.from({ length: width }, (_, bit) => (width === 1 ? name : `${name}[${bit}]`)),
  );
  const rows = named.map((name) => known.get(name) ?? emptyRow(name));
  return [...rows, ...entries.filter((entry) => !named.includes(entry.name))];
}

const emptyRow = (name: string): PinEntry => ({
  name,
  pin: '',
  standard: 'LVCMOS 3.3 V',
  drive: '8',
  pull: 'none',
  slew: 'slow',
  line: 0,
});

/** Rows with a pin: those are what the file holds. */
export const placed = (rows: readonly PinEntry[]): PinEntry[] => rows.filter((row) => row.pin !== '');

/** Pasted lines over the rows of the same port; others are added. */
export function merged(rows: readonly PinEntry[], pasted: readonly PinEntry[]): PinEntry[] {
  const fresh = new Map(pasted.map((entry) => [entry.name, entry]));
  return [
    ...rows.map((row) => fresh.get(row.name) ?? row),
    ...pasted.filter((entry) => !rows.some((row) => row.name === entry.name)),
  ];
}
