import { type Design, elaborate, type Message, readDesign, type SourceFile, type Word as Bits } from '../hdl/index.ts';
import { optimise } from '../netlist/index.ts';
import { stopIfCancelled, unwatched, type Watch } from '../progress.ts';
import { fail, ok, ProblemError, type Result } from '../result.ts';
import { problem } from './problems.ts';
import { Stepped } from '../sim/events/index.ts';
import { chooseClock } from './clock.ts';
import { aloneAs } from './instance.ts';
import type { Logic } from './logic.ts';
import type { VectorOptions } from './options.ts';
import { parseVectors, type VectorRow, type Vectors } from './table.ts';
import { type Trace, Tracer } from './trace.ts';
import { formatWord, type Word } from './word.ts';

/** One expectation that was not met. `row` counts data rows from 1. */
export interface VectorFailure {
  readonly row: number;
  readonly port: string;
  readonly expected: string;
  readonly actual: string;
}

export interface VectorRun {
  readonly top: string;
  readonly clock: string | null;
  /** Rows that met all their expectations, and rows that did not. */
  readonly passed: number;
  readonly failed: number;
  readonly failures: readonly VectorFailure[];
  readonly vectors: Vectors;
  /** What the outputs were in each row, by column; null for columns of inputs. */
  readonly actual: readonly (readonly (string | null)[])[];
  /** Step of the trace at which each row ended and was compared. */
  readonly ends: readonly number[];
  readonly trace: Trace;
  readonly messages: readonly Message[];
}

const MOST_TRACED = 400;
const LOW: Bits = { v: 0n, x: 0n };
const HIGH: Bits = { v: 1n, x: 0n };
const REPORT_EVERY = 256;

/** Reads the sources, simulates them four-state and compares what comes out row by row with the table. */
export function runVectors(
  files: readonly SourceFile[],
  table: SourceFile,
  options: VectorOptions = {},
  watch: Watch = unwatched,
): Result<VectorRun> {
  if (options.instance !== undefined) {
    const alone = aloneAs(files, options, options.instance);
    return alone.ok ? runVectors(files, table, alone.value, watch) : alone;
  }
  const design = readDesign(files, options);
  const messages = design.messages;
  const simulator = steppedOf(design);
  if (!simulator.ok) return simulator;
  if (!simulator.value) {
    const errors = messages.list.filter((m) => m.severity === 'error');
    return fail(
      problem('not-understood', {
        errorsCountText: errors.length === 1 ? 'an error' : `${errors.length} errors`,
        errors: errors
          .slice(0, 5)
          .map((m) => `${m.file}:${m.line}: ${m.message}`)
          .join(' '),
      }),
    );
  }
  const stepped = simulator.value;
  const { ports, signals } = stepped;
  const inputs = ports.filter(({ direction }) => direction !== 'output');
  const outputs = ports.filter(({ direction }) => direction !== 'input');
  // What the hardware knows of it: which inputs are clocks, and what values are called.
  const { netlist } = elaborate(files, options);
  const small = netlist && optimise(netlist);
  const [loop] = small?.loops ?? [];
  if (loop) return fail(problem('loop', { names: loop.names.join(' > ') || 'unnamed signals' }));
  const clock = chooseClock(
    inputs.map(({ name }) => name),
    small?.netlist ?? null,
    options.clock,
  );
  if (!clock.ok) return clock;
  const vectors = parseVectors(table.name, table.text, inputs, outputs);
  if (!vectors.ok) return vectors;
  const names = new Map(netlist?.signals.map((signal) => [signal.name, signal.names] as const) ?? []);
  const tracer = new Tracer(
    signals.slice(0, MOST_TRACED).map(({ name, width, read }) => ({
      name,
      width,
      names: names.get(name) ?? [],
      read: () => logicOf(read()),
    })),
  );
  return guarded(() => ({
    top: design.top?.name ?? '',
    clock: clock.value,
    vectors: vectors.value,
    messages: messages.list,
    ...runRows(vectors.value, stepped, clock.value, tracer, watch),
    trace: tracer.trace,
  }));
}

const steppedOf = (design: Design): Result<Stepped | null> => guarded(() => Stepped.of(design));

/** A design that never comes to rest is told as a loop. */
function guarded<T>(work: () => T): Result<T> {
  try {
    return ok(work());
  } catch (error) {
    if (!(error instanceof ProblemError) || !error.problem.code.startsWith('simulation-')) throw error;
    const isLoop = error.problem.code === 'simulation-oscillation';
    return fail(isLoop ? problem('loop', { names: error.problem.message }) : error.problem);
  }
}

const logicOf = ({ v, x }: Bits): Logic => ({ value: v, unknown: x });
const bitsOf = ({ value, unknown }: Logic): Bits => ({ v: value, x: unknown });

function runRows(
  { columns, rows }: Vectors,
  simulator: Stepped,
  clock: string | null,
  tracer: Tracer,
  watch: Watch,
): Pick<VectorRun, 'passed' | 'failed' | 'failures' | 'actual' | 'ends'> {
  const failures: VectorFailure[] = [];
  const actual: (string | null)[][] = [];
  const ends: number[] = [];
  let time = 0;
  let steps = 0;
  const look = (row: number) => {
    tracer.sample(time++);
    if (steps++ % REPORT_EVERY > 0) return;
    stopIfCancelled(watch, 'The rows so far are not kept.');
    watch.report({ phase: 'Running vectors', done: row, total: rows.length, unit: 'rows' });
  };
  if (clock !== null) simulator.set(new Map([[clock, LOW]]));
  for (const row of rows) {
    simulator.set(inputsOf(columns, row), true);
    look(row.row);
    const cycles = row.cycles ?? (clock === null ? 0 : 1);
    for (let i = 0; clock !== null && i < cycles; i++) {
      simulator.set(new Map([[clock, HIGH]]));
      look(row.row);
      simulator.set(new Map([[clock, LOW]]));
      look(row.row);
    }
    ends.push(time - 1);
    actual.push(
      columns.map((column, i) => (column.kind === 'expect' ? compare(column, row, i, simulator, failures) : null)),
    );
  }
  const bad = new Set(failures.map((failure) => failure.row)).size;
  return { passed: rows.length - bad, failed: bad, failures, actual, ends };
}

function inputsOf(columns: Vectors['columns'], row: VectorRow): ReadonlyMap<string, Bits> {
  const values = new Map<string, Bits>();
  for (const [i, column] of columns.entries()) {
    const cell = row.cells[i];
    if (column.kind === 'input' && cell) values.set(column.port, bitsOf(cell));
  }
  return values;
}

/** The output as text; a failure is noted where a bit that was asked for differs. */
function compare(
  column: { readonly port: string; readonly width: number },
  row: VectorRow,
  i: number,
  simulator: Stepped,
  failures: VectorFailure[],
): string {
  const got = logicOf(simulator.get(column.port));
  const wanted = row.cells[i] ?? null;
  const text = formatWord(got, column.width, wanted?.notation ?? 'hex');
  if (wanted && differs(got, wanted))
    failures.push({ row: row.row, port: column.port, expected: row.texts[i] ?? '', actual: text });
  return text;
}

/** x digits of an expectation ask nothing; z digits ask for a floating pin, u digits for a bit that nobody knows. */
function differs(got: Logic, wanted: Word): boolean {
  const asked = ~(wanted.unknown & wanted.value);
  const isX = got.unknown & got.value;
  return (
    (((got.value ^ wanted.value) | (got.unknown ^ wanted.unknown)) & asked) !== 0n ||
    (~isX & wanted.mustBeUnknown) !== 0n
  );
}
