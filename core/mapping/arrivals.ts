import { entry, floatAt, intAt, item, numberAt, wordAt } from '../lists.ts';
import type { NodeId } from '../netlist/index.ts';
import type { Delays } from '../families/index.ts';
import type { Lut } from './cover.ts';
import type { Mapped } from './map.ts';
import { placeMemories } from './memories.ts';
import { type Chain, type ChainBit, KIND, type Literal, nodeOf, TRUE } from './network.ts';

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
  readonly #luts: ReadonlyMap<number, Lut>;
  readonly #names = new Map<NodeId, string>();

  constructor(mapped: Mapped, delays: Delays, nameOf: (clock: NodeId) => string) {
    this.#mapped = mapped;
    this.#delays = delays;
    this.#luts = new Map(mapped.luts.map((lut) => [lut.node, lut]));
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
    const blocks = new Set(
      placeMemories(design, mapped.memoryCells).flatMap((use, i) => (use.kind === 'block' ? [i] : [])),
    );
    const reads = new Map<number, readonly Literal[]>();
    for (const port of design.memoryPorts) {
      if (port.kind !== 'read') continue;
      const clock = design.source.memories[port.memory]?.writes[0]?.clock;
      if (blocks.has(port.memory) && clock !== undefined)
        starts.push({ launch: launchOf(clock, 'posedge'), nodes: port.data.map(nodeOf), own: delays.memoryClockToOut });
      else for (const bit of port.data) reads.set(nodeOf(bit), port.address);
    }
    this.launches = [...keys.values()];
    const size = design.network.kind.length;
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
      const origin = this.#mapped.design.source.origins[numberAt(this.#mapped.design.network.origin, node)];
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
    const kind = this.#mapped.design.network.kind[node];
    if (kind === KIND.sum || kind === KIND.carry) return 'carry chain';
    if (kind !== KIND.leaf) return 'LUT';
    const word = numberAt(this.#mapped.design.network.origin, node);
    return this.#mapped.design.source.nodes[word]?.op === 'memread' ? 'memory' : first ? 'register' : 'memory';
  }

  #nameOf(node: number): string {
    const { network, source } = this.#mapped.design;
    const word = numberAt(network.origin, node);
    const name = this.#names.get(word);
    const made = source.nodes[word];
    if (made?.op === 'memread') return source.memories[made.memory]?.name ?? 'memory';
    if (name === undefined) return source.origins[word]?.path ?? '';
    if ((made?.width ?? 1) === 1 || network.kind[node] !== KIND.leaf) return name;
    return `${name}[${node - this.#firstBit(node, word)}]`;
  }

  /** Bits of a leaf word follow one another. */
  #firstBit(node: number, word: number): number {
    let first = node;
    while (
      this.#mapped.design.network.origin[first - 1] === word &&
      this.#mapped.design.network.kind[first - 1] === KIND.leaf
    )
      first--;
    return first;
  }

  #propagate(at: Float64Array, before: Int32Array, reads: ReadonlyMap<number, readonly Literal[]>): void {
    const { network } = this.#mapped.design;
    const later = (node: number, from: number, own: number) => {
      const start = floatAt(at, from);
      if (start === NEVER || from === 0) return;
      const time = start + this.route(from) + own;
      if (time > floatAt(at, node)) {
        at[node] = time;
        before[node] = from;
      }
    };
    const chains = new Set(this.#mapped.chains);
    for (let node = 1; node < network.kind.length; node++) {
      const kind = network.kind[node];
      if (kind === KIND.leaf)
        for (const bit of reads.get(node) ?? []) later(node, nodeOf(bit), this.#delays.tableMemory);
      else if (kind === KIND.sum || kind === KIND.carry) {
        const chain = item(network.chains, numberAt(network.first, node));
        // All outputs of a chain are timed at the first of them: each is asked for by node number, in order.
        if (chains.has(numberAt(network.first, node)) && (node === chain.sums[0] || chain.sums[0] === -1))
          this.#chain(chain, at, before);
      } else for (const input of this.#luts.get(node)?.inputs ?? []) later(node, input, this.#delays.lut);
    }
  }

  /** The carry takes the latest input so far along; each output leaves where it stands. */
  #chain(chain: Chain, at: Float64Array, before: Int32Array): void {
    let latest = NEVER;
    let from = -1;
    const enter = (literal: Literal) => {
      const node = nodeOf(literal);
      if (literal <= TRUE || floatAt(at, node) === NEVER) return;
      const time = floatAt(at, node) + this.route(node) + this.#delays.lut;
      if (time > latest) [latest, from] = [time, node];
    };
    const leave = (node: number, extra: number) => {
      if (node < 0 || latest === NEVER) return;
      at[node] = latest + extra;
      before[node] = from;
    };
    enter(chain.carryIn);
    for (const [i, { a, a2, b }] of (chain.bits as readonly ChainBit[]).entries()) {
      if (latest !== NEVER) latest += this.#delays.carry;
      for (const literal of [a, a2, b]) enter(literal);
      leave(numberAt(chain.sums, i), this.#delays.chainEnds);
    }
    leave(chain.out, this.#delays.chainEnds);
  }
}

/** A name in the instance that the logic is written in comes first, then the deeper one. */
const rank = (name: string, home: string | undefined): number =>
  name.split('.').length + (name.slice(0, name.lastIndexOf('.')) === home ? 1000 : 0);
