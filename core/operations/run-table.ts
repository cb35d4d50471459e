import type { ChainSession } from '../board/index.ts';
import {
  type HubClient,
  PanelClient,
  type PanelMap,
  type ProbeMap,
  isAtRest,
  StepperClient,
  type StepperMap,
} from '../probes/index.ts';
import { fail, ok, type Result } from '../result.ts';
import {
  type HardwareOptions,
  type HardwareRun,
  parseVectors,
  type RowTarget,
  runOnHardware,
  type Vectors,
} from '../vectors/index.ts';
import { openHub } from './debug-link.ts';
import { problem } from './problems.ts';

interface Request {
  readonly part: string;
  readonly device: number | null;
  readonly map: ProbeMap;
  /** The table: its file's name and text. */
  readonly table: { readonly name: string; readonly text: string };
}

/** A build that can run a table: the panel that its columns are on, and what holds its clock. */
interface TableCores {
  readonly vectors: Vectors;
  readonly panel: PanelMap;
  readonly stepper: StepperMap | null;
  /** The lever or gauge of a column. */
  readonly pathOf: (column: string) => string;
}

/** Names by which a column may mean a probed signal: its path, and every end of it. */
function endsOf(path: string): string[] {
  const parts = path.split('.');
  return parts.map((_, i) => parts.slice(i).join('.'));
}

/** Finds what a table's columns are on, by the probe map alone. */
export function tableCores({ map, table }: Pick<Request, 'map' | 'table'>): Result<TableCores> {
  const panels = map.cores.filter((core): core is PanelMap => core.kind === 'panel');
  const steppers = map.cores.filter((core): core is StepperMap => core.kind === 'stepper');
  let first: Result<TableCores> | null = null;
  for (const panel of panels) {
    const named = (of: PanelMap['gauges']) =>
      of.flatMap(({ name, width }) => endsOf(name).map((end) => ({ name: end, width })));
    const vectors = parseVectors(table.name, table.text, named(panel.levers), named(panel.gauges));
    if (!vectors.ok) {
      first ??= vectors;
      continue;
    }
    const stepper = steppers.find(({ clock }) => clock === panel.clock) ?? null;
    if (stepper === null && panel.clock !== '') {
      first ??= fail(problem('no-stepper', { panel: panel.name, clock: panel.clock }));
      continue;
    }
    const all = [...panel.levers, ...panel.gauges].map(({ name }) => name);
    const pathOf = (column: string) => all.find((path) => endsOf(path).includes(column)) ?? column;
    return ok({ vectors: vectors.value, panel, stepper, pathOf });
  }
  return first ?? fail(problem('no-panel'));
}

/**
 * Runs a table on the design that runs, which is taken as it stands: after a load that is its beginning where its
 * stepper holds it from the first edge on.
 */
export async function runTable(
  chain: ChainSession,
  request: Request,
  options: Omit<HardwareOptions, 'clock'> = {},
): Promise<Result<HardwareRun>> {
  const cores = tableCores(request);
  if (!cores.ok) return cores;
  const hub = await openHub(chain, request.part, request.device, request.map);
  if (!hub.ok) return hub;
  const { vectors, stepper } = cores.value;
  const rows = new BoardRows(hub.value, cores.value);
  const held = await rows.begin();
  if (!held.ok) return held;
  return runOnHardware(vectors, rows, { ...options, clock: stepper?.clock ?? null });
}

class BoardRows implements RowTarget {
  readonly #hub: HubClient;
  readonly #panel: PanelClient;
  readonly #stepper: StepperClient | null;
  readonly #cores: TableCores;
  readonly #levers = new Map<string, bigint>();

  constructor(hub: HubClient, cores: TableCores) {
    this.#hub = hub;
    this.#cores = cores;
    this.#panel = new PanelClient(hub, cores.panel);
    this.#stepper = cores.stepper && new StepperClient(hub, cores.stepper);
  }

  /** Holds the clock. */
  async begin(): Promise<Result<null>> {
    if (this.#stepper === null) return ok(null);
    if (!(await this.#stepper.isKnown()))
      return fail(problem('stepper-old', { name: this.#cores.stepper?.name ?? '' }));
    this.#stepper.hold();
    const state = await this.#stepper.atRest();
    return state.ok ? ok(null) : state;
  }

  async row(inputs: ReadonlyMap<string, bigint>, cycles: number): Promise<Result<ReadonlyMap<string, bigint>>> {
    for (const [column, value] of inputs) this.#levers.set(this.#cores.pathOf(column), value);
    // Levers and steps are asked for on the same clock, in this order, and a step comes later by one edge: what is set
    // is there before it.
    this.#panel.put(this.#levers);
    const steps = this.#stepper !== null && cycles > 0 ? this.#stepper : null;
    steps?.step(cycles);
    const state = steps?.stateLater() ?? null;
    const reading = this.#panel.readLater();
    await this.#hub.flush();
    const told = await reading;
    const now = await state;
    if (told !== null && (now === null || isAtRest(now))) return ok(this.#byColumn(told.gauges));
    if (steps !== null) {
      const rested = await steps.atRest();
      if (!rested.ok) return rested;
    }
    const again = await this.#panel.read();
    return again.ok ? ok(this.#byColumn(again.value.gauges)) : again;
  }

  #byColumn(gauges: Readonly<Record<string, bigint>>): ReadonlyMap<string, bigint> {
    return new Map(
      this.#cores.vectors.columns.flatMap((column) => {
        const value = column.kind === 'expect' ? gauges[this.#cores.pathOf(column.port)] : undefined;
        return column.kind === 'expect' && value !== undefined ? [[column.port, value] as const] : [];
      }),
    );
  }
}
