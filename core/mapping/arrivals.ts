import { entry, floatAt, intAt, item, numberAt, wordAt } from '../lists.ts';
import type { NodeId } from '../netlist/index.ts';
import type { Delays } from '../families/index.ts';
import type { Mapped } from './map.ts';
import { placeMemories } from './memories.ts';
import { type Literal, nodeOf } from './gates/index.ts';
import { NODE, type TableChain } from './tables/index.ts';

/** Registers of one clock and edge, where signals set out. */
interface Launch {
  readonly clock: string;
  readonly edge: 'posedge' | 'negedge';
}

export interface TimingPath {
  readonly from: string;
  readonly to: string;
  readonly delay: number;
  /** Time to spare; null without a constraint. */
  readonly slack: number | null;
  /** Tables and chains on the way. */
  readonly levels: number;
  readonly steps: readonly Step[];
}

/** One piece of a path. `own` and `at` are nanoseconds; the place is that of the statement the piece was made for. */
interface Step {
  readonly what: 'register' | 'LUT' | 'carry chain' | 'memory' | 'wire' | 'setup';
  readonly name: string;
  readonly own: number;
  readonly at: number;
  readonly fanout: number;
  readonly file: string;
  readonly line: number;
}

const NEVER = -1;

/**
 * When each signal of a mapped design settles after the edge that set it off, for each kind of launching register
 * apart.
 */
export class Arrivals {
  readonly launches: readonly Launch[];
  readonly #mapped: Mapped;
  readonly #delays: Delays;
  readonly #at: readonly Float64Array[];
  readonly #before: readonly Int32Array[];
  readonly #names = new Map<NodeId, string>();

  constructor(mapped: Mapped, delays: Delays, nameOf: (clock: NodeId) => string) {
    this.#mapped = mapped;
    this.#delays = delays;
    const { design } = mapped;
    for (const { node, name } of design.source.signals) {
      const known = this.#names.get(node);
      const home = design.source.origins[node]?.path;
      if (known === undefined || rank(name, home) > rank(known, home)) this.#names.set(node, name);
    }
    const keys = new Map<string, Launch>();
    const launchOf = (clock: NodeId, edge: Launch['edge']): Launch => {
      const launch = { clock: nameOf(clock), edge };
      const key = `${launch.clock} ${edge}`;
      if (!keys.has(key)) keys.set(key, launch);
      return entry(keys, key);
    };
    const starts = design.flipFlops.map((ff) => ({
      launch: launchOf(ff.register.clock, ff.register.edge),
      nodes: ff.q.map(nodeOf),
      own: delays.clockToOut,
    }));
    const blocks = new Set(placeMemories(mapped).flatMap((use, i) => (use.kind === 'block' ? [i] : [])));
    const reads = new Map<number, readonly Literal[]>();
    for (const port of design.memoryPorts) {
      if (port.kind !== 'read') continue;
      const clock = design.source.memories[port.memory]?.writes[0]?.clock;
      if (blocks.has(port.memory) && clock !== undefined)
        starts.push({ launch: launchOf(clock, 'posedge'), nodes: port.data.map(nodeOf), own: delays.memoryClockToOut });
      else for (const bit of port.data) reads.set(nodeOf(bit), port.address);
    }
    this.launches = [...keys.values()];
    const size = mapped.logic.kind.length;
    this.#at = this.launches.map(() => new Float64Array(size).fill(NEVER));
    this.#before = this.launches.map(() => new Int32Array(size).fill(-1));
    for (const { launch, nodes, own } of starts)
      for (const node of nodes) item(this.#at, this.launches.indexOf(launch))[node] = own;
    for (const [i] of this.launches.entries()) this.#propagate(item(this.#at, i), item(this.#before, i), reads);
  }

  /** Nanoseconds after the launching edge, or null where nothing of that launch arrives. */
  at(node: number, launch: Launch): number | null {
    const time = this.#at[this.launches.indexOf(launch)]?.[node] ?? NEVER;
    return time === NEVER ? null : time;
  }

  /** Delay of the wires from a node to what it reaches. */
  route(node: number): number {
    return this.#delays.route + this.#delays.routeGrowth * Math.log2(Math.max(1, wordAt(this.#mapped.fanout, node)));
  }

  nameOfWord(word: NodeId): string {
    return this.#names.get(word) ?? this.#mapped.design.source.origins[word]?.path ?? '';
  }

  path(
    end: { readonly name: string; readonly literal: Literal; readonly setup: number },
    launch: Launch,
    delay: number,
    slack: number | null,
  ): TimingPath {
    const index = this.launches.indexOf(launch);
    const nodes: number[] = [];
    for (let node = nodeOf(end.literal); node >= 0; node = intAt(item(this.#before, index), node)) nodes.unshift(node);
    const steps: Step[] = [];
    let at = 0;
    const step = (what: Step['what'], node: number, own: number, name: string) => {
      at += own;
      const origin = this.#mapped.design.source.origins[numberAt(this.#mapped.logic.madeFor, node)];
      steps.push({
        what,
        name,
        own,
        at,
        fanout: wordAt(this.#mapped.fanout, node),
        file: origin?.file ?? '',
        line: origin?.line ?? 0,
      });
    };
    for (const [i, node] of nodes.entries()) {
      const arrival = floatAt(item(this.#at, index), node);
      step(this.#kindOf(node, i === 0), node, arrival - at, this.#nameOf(node));
      step(
        'wire',
        node,
        this.route(node),
        `to ${this.#mapped.fanout[node]} ${this.#mapped.fanout[node] === 1 ? 'place' : 'places'}`,
      );
    }
    step('setup', nodeOf(end.literal), end.setup, end.name);
    return { from: this.#nameOf(numberAt(nodes, 0)), to: end.name, delay, slack, levels: nodes.length - 1, steps };
  }

  #kindOf(node: number, first: boolean): Step['what'] {
    const { logic } = this.#mapped;
    if (logic.kind[node] === NODE.chain) return 'carry chain';
    if (logic.kind[node] === NODE.table) return 'LUT';
    const word = numberAt(logic.madeFor, node);
    return this.#mapped.design.source.nodes[word]?.op === 'memread' ? 'memory' : first ? 'register' : 'memory';
  }

  #nameOf(node: number): string {
    const { logic, design } = this.#mapped;
    const { source } = design;
    const word = numberAt(logic.madeFor, node);
    const name = this.#names.get(word);
    const made = source.nodes[word];
    if (made?.op === 'memread') return source.memories[made.memory]?.name ?? 'memory';
    if (name === undefined) return source.origins[word]?.path ?? '';
    if ((made?.width ?? 1) === 1 || logic.kind[node] !== NODE.leaf) return name;
    return `${name}[${node - this.#firstBit(node, word)}]`;
  }

  /** Bits of a leaf word follow one another. */
  #firstBit(node: number, word: number): number {
    let first = node;
    const { kind, madeFor } = this.#mapped.logic;
    while (madeFor[first - 1] === word && kind[first - 1] === NODE.leaf) first--;
    return first;
  }

  /** Every node after those it depends on, the address of an asynchronous read among them. */
  #ordered(reads: ReadonlyMap<number, readonly Literal[]>): number[] {
    const { logic } = this.#mapped;
    const sources = (node: number): readonly number[] => reads.get(node)?.map(nodeOf) ?? logic.sources(node);
    const state = new Uint8Array(logic.kind.length);
    const order: number[] = [];
    const open: number[] = [];
    for (let root = 1; root < logic.kind.length; root++) {
      open.push(root);
      for (let node = open.at(-1); node !== undefined; node = open.at(-1)) {
        if (state[node] !== 0) {
          open.pop();
          if (state[node] === 1) order.push(node);
          state[node] = 2;
          continue;
        }
        state[node] = 1;
        for (const source of sources(node)) if (state[source] === 0) open.push(source);
      }
    }
    return order;
  }

  #propagate(at: Float64Array, before: Int32Array, reads: ReadonlyMap<number, readonly Literal[]>): void {
    const { logic } = this.#mapped;
    const later = (node: number, from: number, own: number) => {
      const start = floatAt(at, from);
      if (start === NEVER || from === 0) return;
      const time = start + this.route(from) + own;
      if (time > floatAt(at, node)) {
        at[node] = time;
        before[node] = from;
      }
    };
    const timed = new Set<number>();
    for (const node of this.#ordered(reads)) {
      const kind = logic.kind[node];
      if (kind === NODE.leaf)
        for (const bit of reads.get(node) ?? []) later(node, nodeOf(bit), this.#delays.tableMemory);
      else if (kind === NODE.table) for (const input of item(logic.inputs, node)) later(node, input, this.#delays.lut);
      else if (!timed.has(numberAt(logic.chainOf, node))) {
        // All outputs of a chain are timed at the first of them.
        timed.add(numberAt(logic.chainOf, node));
        this.#chain(item(logic.chains, numberAt(logic.chainOf, node)), at, before);
      }
    }
  }

  /** The carry takes the latest input so far along; each output leaves where it stands. */
  #chain({ cells, carryIn, sums, out }: TableChain, at: Float64Array, before: Int32Array): void {
    let latest = NEVER;
    let from = -1;
    const enter = (node: number) => {
      if (node === 0 || floatAt(at, node) === NEVER) return;
      const time = floatAt(at, node) + this.route(node) + this.#delays.lut;
      if (time > latest) [latest, from] = [time, node];
    };
    const leave = (node: number) => {
      if (node < 0 || latest === NEVER) return;
      at[node] = latest + this.#delays.chainEnds;
      before[node] = from;
    };
    enter(nodeOf(carryIn));
    for (const [i, { inputs }] of cells.entries()) {
      if (latest !== NEVER) latest += this.#delays.carry;
      for (const input of inputs) enter(input);
      leave(numberAt(sums, i));
    }
    leave(out);
  }
}

/** A name in the instance that the logic is written in comes first, then the deeper one. */
const rank = (name: string, home: string | undefined): number =>
  name.split('.').length + (name.slice(0, name.lastIndexOf('.')) === home ? 1000 : 0);
