import { elaborate, type Message, type SourceFile } from '../hdl/index.ts';
import { type Netlist, optimise } from '../netlist/index.ts';
import { stopIfCancelled, unwatched, type Watch } from '../progress.ts';
import { fail, ok, type Result } from '../result.ts';
import { problem } from './problems.ts';
import { FourStateSimulator, known, type Logic } from '../sim/fabric/index.ts';
import { parseVectors, type VectorRow, type Vectors } from './table.ts';
import { type Trace, Tracer } from './trace.ts';
import { formatWord, type Word } from './word.ts';

export interface VectorOptions {
  readonly top?: string;
  /** Name of the clock input; left out, it is the one input that clocks registers. */
  readonly clock?: string;
  readonly parameters?: Readonly<Record<string, bigint>>;
}

/** One expectation that was not met. `row` counts data rows from 1. */
interface VectorFailure {
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
  readonly trace: Trace;
  readonly messages: readonly Message[];
}

const MOST_TRACED = 400;
const REPORT_EVERY = 256;

/** Reads the sources, simulates them four-state and compares what comes out row by row with the table. */
export function runVectors(
  files: readonly SourceFile[],
  table: SourceFile,
  options: VectorOptions = {},
  watch: Watch = unwatched,
): Result<VectorRun> {
  const { netlist, hierarchy, messages } = elaborate(files, { ...options, fourState: true });
  if (!netlist) {
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
  const { netlist: small, loops, moved } = optimise(withSignals(netlist), { exact: true });
  const [loop] = loops;
  if (loop) return fail(problem('loop', { names: loop.names.join(' > ') || 'unnamed signals' }));
  const clock = chooseClock(small, options.clock);
  if (!clock.ok) return clock;
  const vectors = parseVectors(table.name, table.text, netlist.inputs, netlist.outputs);
  if (!vectors.ok) return vectors;
  const simulator = new FourStateSimulator(small);
  const tracer = new Tracer(tracedSignals(netlist, simulator, moved));
  return ok({
    top: hierarchy?.name ?? '',
    clock: clock.value,
    vectors: vectors.value,
    messages: messages.list,
    ...runRows(vectors.value, simulator, clock.value, tracer, watch),
    trace: tracer.trace,
  });
}

/** Named signals stay in, so that the waveform can show them. */
const withSignals = (netlist: Netlist): Netlist => ({
  ...netlist,
  signals: netlist.signals.slice(0, MOST_TRACED).map((signal) => ({ ...signal, keep: true })),
});

function tracedSignals(netlist: Netlist, simulator: FourStateSimulator, moved: ReadonlyMap<number, number>) {
  return netlist.signals.slice(0, MOST_TRACED).flatMap(({ name, width, node, names }) => {
    const at = moved.get(node);
    return at === undefined ? [] : [{ name, width, names, read: (): Logic => simulator.at(at) }];
  });
}

/** Inputs that clock registers; a name given must be an input. */
function chooseClock(netlist: Netlist, wanted: string | undefined): Result<string | null> {
  const inputs = netlist.inputs.map((port) => port.name);
  if (wanted !== undefined) {
    if (inputs.includes(wanted)) return ok(wanted);
    return fail(problem('no-clock', { wanted, inputs: inputs.join(', ') || 'none' }));
  }
  const clocks = new Set(
    [...netlist.registers, ...netlist.memories.flatMap((memory) => memory.writes)].flatMap(({ clock }) => {
      const node = netlist.nodes[clock];
      return node?.op === 'input' ? [node.name] : [];
    }),
  );
  const [only, another] = [...clocks].sort();
  if (another === undefined) return ok(only ?? null);
  return fail(problem('several-clocks', { list: [...clocks].sort().join(', ') }));
}

function runRows(
  { columns, rows }: Vectors,
  simulator: FourStateSimulator,
  clock: string | null,
  tracer: Tracer,
  watch: Watch,
): Pick<VectorRun, 'passed' | 'failed' | 'failures' | 'actual'> {
  const failures: VectorFailure[] = [];
  const actual: (string | null)[][] = [];
  let time = 0;
  let steps = 0;
  const look = (row: number) => {
    tracer.sample(time++);
    if (steps++ % REPORT_EVERY > 0) return;
    stopIfCancelled(watch, 'The rows so far are not kept.');
    watch.report({ phase: 'Running vectors', done: row, total: rows.length, unit: 'rows' });
  };
  if (clock !== null) simulator.set(clock, known(0n));
  for (const row of rows) {
    simulator.setAll(inputsOf(columns, row));
    look(row.row);
    const cycles = row.cycles ?? (clock === null ? 0 : 1);
    for (let i = 0; clock !== null && i < cycles; i++) {
      simulator.set(clock, known(1n));
      look(row.row);
      simulator.set(clock, known(0n));
      look(row.row);
    }
    actual.push(
      columns.map((column, i) => (column.kind === 'expect' ? compare(column, row, i, simulator, failures) : null)),
    );
  }
  const bad = new Set(failures.map((failure) => failure.row)).size;
  return { passed: rows.length - bad, failed: bad, failures, actual };
}

function inputsOf(columns: Vectors['columns'], row: VectorRow): ReadonlyMap<string, Logic> {
  const values = new Map<string, Logic>();
  for (const [i, column] of columns.entries()) {
    const cell = row.cells[i];
    if (column.kind === 'input' && cell) values.set(column.port, cell);
  }
  return values;
}

/** The output as text; a failure is noted where a bit that was asked for differs. */
function compare(
  column: { readonly port: string; readonly width: number },
  row: VectorRow,
  i: number,
  simulator: FourStateSimulator,
  failures: VectorFailure[],
): string {
  const got = simulator.get(column.port);
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
