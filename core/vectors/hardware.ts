// A table of vectors row by row on something that runs it for real: two-state, its clock held between rows.
import { item } from '../lists.ts';
import { unwatched, type Watch } from '../progress.ts';
import { fail, ok, type Problem, type Result } from '../result.ts';
import { problem } from './problems.ts';
import type { VectorFailure } from './run.ts';
import type { VectorRow, Vectors } from './table.ts';
import { formatWord, type Word } from './word.ts';

/** Something whose inputs can be set and whose clock stands until it is told to move. */
export interface RowTarget {
  /**
   * Sets inputs, by the names of their columns, lets the clock rise so often, and tells what stands at every output
   * that the table asks for, by column.
   */
  row(inputs: ReadonlyMap<string, bigint>, cycles: number): Promise<Result<ReadonlyMap<string, bigint>>>;
}

export interface HardwareOptions {
  /** Without a clock a row lets what follows its inputs come to rest. */
  readonly clock: string | null;
  /** Where digits of an input are left open they come from here: the same ones for the same number. */
  readonly seed?: number;
  readonly stopAtFirst?: boolean;
  readonly watch?: Watch;
  /** Called behind each row, as it is told. */
  readonly onRow?: (row: HardwareRow) => void;
}

/** What became of one row. */
export interface HardwareRow {
  /** Counts data rows from 1. */
  readonly row: number;
  /** What was set, by column, open digits filled in; null for columns of outputs and cells that set nothing. */
  readonly set: readonly (string | null)[];
  /** What stood there behind the row, by column; null for columns of inputs. */
  readonly actual: readonly (string | null)[];
  readonly failures: readonly VectorFailure[];
}

export interface HardwareRun {
  readonly passed: number;
  readonly failed: number;
  readonly failures: readonly VectorFailure[];
  /** The rows that were run; fewer than the table has where it was stopped. */
  readonly rows: readonly HardwareRow[];
  /** Why not all rows were run: something went wrong, was cancelled, or the first difference was enough. */
  readonly stopped: Problem | 'cancelled' | 'difference' | null;
  /** Bits of expectations that hardware cannot answer for: floating ones, and such as nobody should know. */
  readonly notAsked: number;
}

/** Runs the rows one after another; what is known by then is kept whatever happens. */
export async function runOnHardware(
  { columns, rows }: Vectors,
  target: RowTarget,
  { clock, seed = 1, stopAtFirst = false, watch = unwatched, onRow }: HardwareOptions,
): Promise<Result<HardwareRun>> {
  const open = rows.flatMap(({ row, cells }) =>
    columns.flatMap((column, i) => (column.kind === 'input' && hasFloating(cells[i] ?? null) ? [{ row, column }] : [])),
  )[0];
  if (open) return fail(problem('floating-input', { row: open.row, port: open.column.port }));
  const random = randomBits(seed);
  const done: HardwareRow[] = [];
  let stopped: HardwareRun['stopped'] = null;
  for (const row of rows) {
    if (watch.cancelled()) {
      stopped = 'cancelled';
      break;
    }
    const inputs = inputsOf(columns, row, random);
    const told = await target.row(inputs, row.cycles ?? (clock === null ? 0 : 1));
    if (!told.ok) {
      stopped = told.error;
      break;
    }
    const one = rowOf(columns, row, inputs, told.value);
    done.push(one);
    onRow?.(one);
    watch.report({ phase: 'Running vectors', done: done.length, total: rows.length, unit: 'rows' });
    if (stopAtFirst && one.failures.length > 0) {
      stopped = 'difference';
      break;
    }
  }
  const failed = done.filter(({ failures }) => failures.length > 0).length;
  return ok({
    ...{ passed: done.length - failed, failed, rows: done, stopped },
    failures: done.flatMap(({ failures }) => failures),
    notAsked: rows.reduce(
      (sum, { cells }) => sum + cells.reduce((bits, cell, i) => bits + unasked(columns[i], cell), 0),
      0,
    ),
  });
}

const hasFloating = (cell: Word | null): boolean => cell !== null && (cell.unknown & ~cell.value) !== 0n;

const unasked = (column: Vectors['columns'][number] | undefined, cell: Word | null): number =>
  column?.kind === 'expect' && cell ? onesIn((cell.unknown & ~cell.value) | cell.mustBeUnknown) : 0;

const onesIn = (bits: bigint): number => bits.toString(2).replaceAll('0', '').length;

/** Bits in a fixed order, by the linear congruence of Knuth, The Art of Computer Programming, volume 2, section 3.3.4. */
function randomBits(seed: number): (width: number) => bigint {
  let state = BigInt.asUintN(64, BigInt(seed));
  return (width) => {
    let bits = 0n;
    for (let at = 0; at < width; at += 32) {
      state = BigInt.asUintN(64, state * 6364136223846793005n + 1442695040888963407n);
      bits |= (state >> 32n) << BigInt(at);
    }
    return BigInt.asUintN(width, bits);
  };
}

function inputsOf(
  columns: Vectors['columns'],
  { cells }: VectorRow,
  random: (width: number) => bigint,
): ReadonlyMap<string, bigint> {
  const values = new Map<string, bigint>();
  for (const [i, column] of columns.entries()) {
    const cell = cells[i];
    if (column.kind !== 'input' || !cell) continue;
    const open = cell.unknown === 0n ? 0n : random(column.width) & cell.unknown;
    values.set(column.port, (cell.value & ~cell.unknown) | open);
  }
  return values;
}

function rowOf(
  columns: Vectors['columns'],
  row: VectorRow,
  inputs: ReadonlyMap<string, bigint>,
  told: ReadonlyMap<string, bigint>,
): HardwareRow {
  const failures: VectorFailure[] = [];
  const text = (i: number, value: bigint, width: number) =>
    formatWord({ value, unknown: 0n }, width, row.cells[i]?.notation ?? 'hex');
  const set = columns.map((column, i) => {
    const value = column.kind === 'input' ? inputs.get(column.port) : undefined;
    return value === undefined || column.kind !== 'input' ? null : text(i, value, column.width);
  });
  const actual = columns.map((column, i) => {
    if (column.kind !== 'expect') return null;
    const value = told.get(column.port) ?? 0n;
    const wanted = row.cells[i] ?? null;
    const shown = text(i, value, column.width);
    if (wanted && ((value ^ wanted.value) & ~wanted.unknown) !== 0n)
      failures.push({ row: row.row, port: column.port, expected: item(row.texts, i), actual: shown });
    return shown;
  });
  return { row: row.row, set, actual, failures };
}
