// Edges of a design's outputs with their times, written down by the design itself: registers and a memory that are put
// into the netlist beside it. What stands still costs nothing, and time may go on in leaps.
import { intAt, item, numberAt } from '../../core/lists.ts';
import { NetBuilder, type NodeId, type Register } from '../../core/netlist/index.ts';
import type { Simulator } from '../../core/sim/fabric/index.ts';
import type { FramesDesign } from './frames.ts';

/** Pins that a part of the board follows: it is told of them all whenever one that moves it changes. */
export interface Followed {
  readonly moving: readonly string[];
  readonly carried: readonly string[];
}

/**
 * Hears of a part's pins at a time in microseconds: bit 0 is the first of those that move it, behind them come those
 * that are carried.
 */
export type Moved = (part: number, at: number, levels: number) => void;

/** A clock whose edges keep time: when the next one is due and how far they are apart, in microseconds. */
export interface Timing {
  readonly next: number;
  readonly step: number;
}

interface Clock {
  readonly node: NodeId;
  readonly edge: Register['edge'];
}

interface LoggedPart {
  readonly part: number;
  readonly lo: number;
  readonly width: number;
  readonly shadowLo: number;
  readonly moving: number;
}

/** One memory of edges, for all parts whose pins follow the same clock. */
interface Log {
  readonly clock: Clock;
  /** Where the levels of a part's pins lie in an entry, and in the shadow those that move it. */
  readonly parts: readonly LoggedPart[];
  readonly count: NodeId;
  readonly places: NodeId;
  readonly shadow: NodeId;
  readonly memory: number;
  readonly width: number;
}

const DEPTH_BITS = 12;
const DEPTH = 1 << DEPTH_BITS;
/** Of a word: the count of edges below, levels of pins above. */
const WORD_BITS = 32;

/** What is put into a netlist: a log for each clock, and the parts whose pins follow none that keeps time. */
interface EdgePlan {
  readonly logs: readonly Log[];
  readonly unclocked: readonly number[];
}

/** Adds the logs to a design's netlist. `hertz` gives the clocks that keep time, with their frequencies. */
export function addEdgeLogs(
  design: FramesDesign,
  followed: readonly Followed[],
  hertz: ReadonlyMap<NodeId, number>,
): EdgePlan {
  const byClock = new Map<string, { readonly clock: Clock; readonly parts: number[] }>();
  const unclocked: number[] = [];
  for (const [part, { moving, carried }] of followed.entries()) {
    const roots = [...moving, ...carried].flatMap((pin) => nodesOf(design, pin));
    const clock = roots.length === 0 ? null : clockOf(design, roots, hertz);
    if (clock === null) {
      unclocked.push(part);
      continue;
    }
    const key = `${clock.node} ${clock.edge}`;
    const of = byClock.get(key) ?? { clock, parts: [] };
    byClock.set(key, of);
    of.parts.push(part);
  }
  const logs = [...byClock.values()].map(({ clock, parts }) => addLog(design, followed, clock, parts));
  return { logs, unclocked };
}

/** The pads of a pin that the design drives. */
const padsAt = (design: FramesDesign, pin: string) =>
  design.pads.flatMap((pad) => {
    const output = pad.pin === pin ? design.netlist.outputs.find(({ name }) => name === pad.port) : undefined;
    return output ? [{ output, bit: pad.bit }] : [];
  });

const nodesOf = (design: FramesDesign, pin: string): NodeId[] =>
  padsAt(design, pin).flatMap(({ output: { node, enable } }) => (enable === undefined ? [node] : [node, enable]));

/** The clock of all registers that nodes depend on; where they are of several, or of one without time, the fastest. */
function clockOf(
  { netlist }: FramesDesign,
  roots: readonly NodeId[],
  hertz: ReadonlyMap<NodeId, number>,
): Clock | null {
  const byNode = new Map(netlist.registers.map((register) => [register.node, register]));
  const clocks = new Map<string, Clock>();
  const seen = new Set<NodeId>();
  const open = [...roots];
  for (let id = open.pop(); id !== undefined; id = open.pop()) {
    if (seen.has(id)) continue;
    seen.add(id);
    const node = item(netlist.nodes, id);
    const register = byNode.get(id);
    const edges = register ? [register] : node.op === 'memread' ? (netlist.memories[node.memory]?.writes ?? []) : [];
    for (const { clock, edge } of edges) clocks.set(`${clock} ${edge}`, { node: clock, edge });
    open.push(...node.args);
  }
  const [only, another] = clocks.values();
  if (only && !another && hertz.has(only.node)) return only;
  const [fastest] = [...hertz].sort(([, a], [, b]) => b - a);
  return fastest ? { node: fastest[0], edge: 'posedge' } : null;
}

function addLog(design: FramesDesign, followed: readonly Followed[], clock: Clock, parts: readonly number[]): Log {
  const { netlist } = design;
  const builder = new NetBuilder(netlist);
  const one = builder.constant(1n, 1);
  const levelOf = (pin: string): NodeId => {
    const [pad] = padsAt(design, pin);
    if (!pad) return one;
    const level = builder.slice(pad.output.node, pad.bit, 1);
    // What floats is pulled up by the part.
    const { enable } = pad.output;
    return enable === undefined ? level : builder.or(level, builder.not(builder.slice(enable, pad.bit, 1)));
  };
  const register = (width: number, next: (own: NodeId) => NodeId): NodeId => {
    const node = builder.register(width);
    const timing = { clock: clock.node, edge: clock.edge, reset: null, resetValue: 0n, load: null };
    netlist.registers.push({ node, ...timing, d: next(node), init: 0n, initialised: true });
    return node;
  };
  const bits: NodeId[] = [];
  const moving: NodeId[] = [];
  const placed = parts.map((part) => {
    const { moving: own, carried } = item(followed, part);
    const [lo, shadowLo] = [bits.length, moving.length];
    const levels = [...own, ...carried].map(levelOf);
    bits.push(...levels);
    moving.push(...levels.slice(0, own.length));
    return { part, lo, width: levels.length, shadowLo, moving: own.length };
  });
  const watched = builder.concat(moving);
  const shadow = register(moving.length, () => watched);
  const changed = builder.reduce('redor', builder.xor(watched, shadow));
  const count = register(WORD_BITS, (own) => builder.add(own, builder.constant(1n, WORD_BITS)));
  const places = register(WORD_BITS, (own) =>
    builder.mux(changed, builder.add(own, builder.constant(1n, WORD_BITS)), own),
  );
  const width = WORD_BITS + bits.length;
  const write = { clock: clock.node, edge: clock.edge, enable: changed };
  const address = builder.slice(places, 0, DEPTH_BITS);
  const data = builder.concat([count, ...bits]);
  const memory = netlist.memories.push({
    ...{ name: '', width, depth: DEPTH, init: [] },
    writes: [{ ...write, address, data }],
  });
  return { clock, parts: placed, count, places, shadow, memory: memory - 1, width };
}

/** Reads what a log has written down. */
export class EdgeLog {
  readonly #sim: Simulator;
  readonly #log: Log;
  readonly #at: { readonly count: number; readonly places: number; readonly memory: number };
  /** Entries read so far, and the levels of each part as they were told last. */
  #read = 0;
  readonly #told: number[];

  constructor(sim: Simulator, log: Log, level: (part: number) => number) {
    this.#sim = sim;
    this.#log = log;
    this.#at = {
      count: sim.registerAddress(log.count),
      places: sim.registerAddress(log.places),
      memory: sim.memoryAddress(log.memory),
    };
    this.#told = log.parts.map(({ part }) => level(part));
    // What stands at the beginning is no change.
    const shadow = sim.registerAddress(log.shadow);
    for (const [i, { shadowLo, moving }] of log.parts.entries())
      sim.words[shadow] = intAt(sim.words, shadow) | ((numberAt(this.#told, i) & (2 ** moving - 1)) << shadowLo);
  }

  /** Clock and edge that entries are counted in. */
  get clock(): Clock {
    return this.#log.clock;
  }

  /** Whether anything was written down since it was read last. */
  get hasNews(): boolean {
    return intAt(this.#sim.words, this.#at.places) !== this.#read;
  }

  /** Tells what has been written down. Of more than a log holds the oldest is lost. */
  read({ next, step }: Timing, moved: Moved): void {
    const { words } = this.#sim;
    const end = intAt(words, this.#at.places);
    const now = intAt(words, this.#at.count);
    const limbs = (this.#log.width + WORD_BITS - 1) >>> 5;
    for (let left = Math.min(DEPTH, (end - this.#read) >>> 0); left > 0; left--) {
      const at = this.#at.memory + ((end - left) & (DEPTH - 1)) * limbs;
      // An edge that is seen at the count of n is what the clock's edge n has made.
      const before = (now - intAt(words, at)) >>> 0;
      const levels = limbs > 1 ? intAt(words, at + 1) : 0;
      for (const [i, { part, lo, width }] of this.#log.parts.entries()) {
        const own = (levels >>> lo) & (2 ** width - 1);
        if (own === this.#told[i]) continue;
        this.#told[i] = own;
        moved(part, next - (before + 1) * step, own);
      }
    }
    this.#read = end;
  }
}
