// What has to be built into a design so that a table of vectors can be run on its hardware.
import { elaborate, type SourceFile } from '../hdl/index.ts';
import { type Netlist, optimise, type Signal } from '../netlist/index.ts';
import { fail, ok, type Result } from '../result.ts';
import { chooseClock, parseVectors, type PortSize, type VectorOptions, type Vectors } from '../vectors/index.ts';
import type { ProbePlan } from './plan.ts';
import { problem } from './problems.ts';

/** Name of the panel and of the stepper that a table is run with. */
const TABLE_CORE = 'table';

export interface TablePlan {
  readonly plan: ProbePlan;
  readonly vectors: Vectors;
  /** The clock input that is held between rows; null for a design without one. */
  readonly clock: string | null;
}

/**
 * A panel with levers for what the table sets and gauges for what it expects, and a stepper on the clock, under which
 * the design stands from its first edge on. Columns are ports of the instance, or any signal by its path, within the
 * instance or from the top module down.
 */
export function planForTable(
  files: readonly SourceFile[],
  table: SourceFile,
  options: VectorOptions = {},
): Result<TablePlan> {
  const { netlist, hierarchy, messages } = elaborate(files, options);
  if (!netlist || !hierarchy) {
    const errors = messages.list.filter(({ severity }) => severity === 'error');
    return fail(
      problem('not-understood (table)', {
        errors: errors.map((one) => `${one.file}:${one.line}: ${one.message}`).join(' '),
      }),
    );
  }
  const top = hierarchy.name;
  const scope = options.instance === undefined ? top : inTop(top, options.instance);
  if (!netlist.signals.some(({ name }) => name.startsWith(`${scope}.`)))
    return fail(problem('no-instance', { instance: options.instance ?? scope }));
  const ports = netlist.inputs.filter(({ name }) => !name.includes('$')).map(({ name }) => name);
  const clock = chooseClock(ports, optimise(netlist).netlist, options.clock);
  if (!clock.ok) return clock;
  const named = namesIn(netlist, scope);
  const vectors = parseVectors(table.name, table.text, named.inputs, named.outputs);
  if (!vectors.ok) return vectors;
  const columns = vectors.value.columns.flatMap((column) => (column.kind === 'cycles' ? [] : [column]));
  const paths = (kind: 'input' | 'expect') =>
    columns.flatMap((column) => (column.kind === kind ? [named.pathOf(column.port)] : []));
  const clockPath = clock.value === null ? '' : `${top}.${clock.value}`;
  if (paths('input').includes(clockPath)) return fail(problem('clock-column', { clock: clock.value ?? '' }));
  return ok({
    vectors: vectors.value,
    clock: clock.value,
    plan: {
      recorders: [],
      panels: [{ name: TABLE_CORE, clock: clockPath, levers: paths('input'), gauges: paths('expect') }],
      ...(clock.value === null ? {} : { steppers: [{ name: TABLE_CORE, clock: clockPath, held: true }] }),
    },
  });
}

const inTop = (top: string, instance: string): string =>
  instance === top || instance.startsWith(`${top}.`) ? instance : `${top}.${instance}`;

interface Named {
  readonly inputs: readonly PortSize[];
  readonly outputs: readonly PortSize[];
  readonly pathOf: (column: string) => string;
}

/** What columns may name: ports of the scope each on its side, everything else on both. */
function namesIn({ signals }: Netlist, scope: string): Named {
  const inputs: PortSize[] = [];
  const outputs: PortSize[] = [];
  const paths = new Map<string, string>();
  const add = (name: string, signal: Signal) => {
    const port = { name, width: signal.width };
    const isPort = !name.includes('.') && signal.name.startsWith(`${scope}.`);
    if (!isPort || signal.kind !== 'output') inputs.push(port);
    if (!isPort || signal.kind !== 'input') outputs.push(port);
    paths.set(name, signal.name);
  };
  for (const signal of signals) {
    if (signal.name.startsWith(`${scope}.`)) add(signal.name.slice(scope.length + 1), signal);
    if (!paths.has(signal.name)) add(signal.name, signal);
  }
  return { inputs, outputs, pathOf: (column) => paths.get(column) ?? column };
}
