import { own } from '../lists.ts';
import Papa from 'papaparse';
import { cellLines } from '../cells.ts';
import { standardNamed } from '../families/index.ts';

/**
 * One line of a ports table, its cells as they were written, right or wrong. `line` counts from 1; 0 for lines not in a
 * file yet.
 */
export interface PinEntry {
  /** A port, or one bit of it as `port[3]`. */
  readonly name: string;
  readonly pin: string;
  readonly standard: string;
  /** Milliamperes. */
  readonly drive: string;
  readonly pull: string;
  readonly slew: string;
  readonly line: number;
}

export type PinColumn = Exclude<keyof PinEntry, 'line'>;

const COLUMNS: readonly PinColumn[] = ['name', 'pin', 'standard', 'drive', 'pull', 'slew'];
const HEADS: Readonly<Record<string, PinColumn>> = {
  port: 'name',
  name: 'name',
  signal: 'name',
  pin: 'pin',
  location: 'pin',
  standard: 'standard',
  'i/o standard': 'standard',
  io: 'standard',
  drive: 'drive',
  pull: 'pull',
  slew: 'slew',
};

const DEFAULTS: Readonly<Record<PinColumn, string>> = {
  name: '',
  pin: '',
  standard: 'LVCMOS 3.3 V',
  drive: '8',
  pull: 'none',
  slew: 'slow',
};

/**
 * Reads a ports table, or cells pasted from a spreadsheet: a header naming the columns, in any order, then a line for
 * each bit; without a header the columns are port, pin, standard, drive, pull, slew. Cells left empty take the default.
 * `#` begins a comment line. docs/formats.md, section 5
 */
export function parsePinTable(text: string): PinEntry[] {
  const lines = cellLines(text);
  const [first] = lines;
  const heads = first?.cells.map((cell) => own(HEADS, cell.toLowerCase()));
  const hasHeader = heads?.includes('name') === true && heads.includes('pin');
  const columns: readonly (PinColumn | undefined)[] = hasHeader ? (heads ?? COLUMNS) : COLUMNS;
  return lines.slice(hasHeader ? 1 : 0).map(({ line, cells }) => {
    const entry: Record<PinColumn, string> = { ...DEFAULTS };
    for (const [i, cell] of cells.entries()) {
      const column = columns[i];
      if (column && cell !== '') entry[column] = cell;
      // A cell too many makes the line wrong, and must not be lost quietly.
      else if (!column && cell !== '') entry.name = `${entry.name},${cell}`;
    }
    // Both spellings of a standard are one; a name that is none stays as it is written, for the message.
    return { ...entry, standard: standardNamed(entry.standard)?.name ?? entry.standard, line };
  });
}

/** The table as a file; columns that hold nothing but defaults are left out. */
export function writePinTable(entries: readonly PinEntry[]): string {
  const columns = COLUMNS.filter(
    (column) => column === 'name' || column === 'pin' || entries.some((entry) => entry[column] !== DEFAULTS[column]),
  );
  const heads = columns.map((column) => (column === 'name' ? 'port' : column));
  return `${Papa.unparse([heads, ...entries.map((entry) => columns.map((column) => entry[column]))], { newline: '\n' })}\n`;
}
