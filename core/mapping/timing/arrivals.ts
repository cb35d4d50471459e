import { floatAt, intAt, item, numberAt, wordAt } from '../../lists.ts';
import type { NodeId } from '../../netlist/index.ts';
import type { Delays } from '../../families/index.ts';
import { type Literal, nodeOf } from '../gates/index.ts';
import type { Mapped } from '../map.ts';
import { placeMemories } from '../memories.ts';
import { NODE, type TableChain } from '../tables/index.ts';
import { adviceFor } from './advice.ts';
import type { ClockNames, WordNames } from './names.ts';
import type { Step, TimingPath } from './path.ts';
import type { Rules } from './rules.ts';

/** Registers of one clock and edge, at which the same rules begin: where signals set out. */
interface Launch {
  readonly clock: string;
  readonly edge: 'posedge' | 'negedge';
  readonly rules: readonly number[];
  readonly settled: Settled;
}

/** When each node settles, in nanoseconds; -1 where nothing arrives. `before` is the node it waited for. */
export interface Settled {
  readonly at: Float64Array;
  readonly before: Int32Array;
}

/** Where signals set out, so many nanoseconds after what set them off. */
interface Start {
  readonly nodes: readonly number[];
  readonly own: number;
}

const NEVER = -1;

/** What a way ends at. */
export interface PathEnd {
  readonly name: string;
  /** Names by which a rule may mean it, the best first. */
  readonly names?: readonly string[];
  readonly literal: Literal;
  /** Nanoseconds that it has to be there before: set-up, or the way out through a pin. */
  readonly setup: number;
  readonly isPin?: boolean;
}

/** What is known of a whole way. `clockIn` is added where the clock's own way counts. */
interface PathTimes {
  readonly slack: number | null;
  readonly cycles?: number;
  readonly clockIn?: number;
}

interface Names {
  readonly words: WordNames;
  readonly clocks: ClockNames;
}

/**
 * When each signal of a mapped design settles after the edge that set it off, for each kind of launching register
 * apart.
 */
export class Arrivals {
  readonly launches: readonly Launch[];
  readonly #mapped: Mapped;
  readonly #delays: Delays;
  readonly #names: WordNames;
  readonly #reads = new Map<number, readonly Literal[]>();
  readonly #order: readonly number[];

  constructor(mapped: Mapped, delays: Delays, { words, clocks }: Names, rules: Rules) {
    this.#mapped = mapped;
    this.#delays = delays;
    this.#names = words;
    const { design } = mapped;
    const kinds = new Map<string, Omit<Launch, 'settled'> & { readonly starts: Start[] }>();
    const launch = (clock: NodeId, edge: Launch['edge'], names: readonly string[], start: Start) => {
      const clockName = clocks.of(clock);
      const begun = rules.from([...names, clockName]);
      const key = `${clockName} ${edge} ${begun.join()}`;
      const known = kinds.get(key);
      if (known) known.starts.push(start);
      else kinds.set(key, { clock: clockName, edge, rules: begun, starts: [start] });
    };
    for (const { register, q } of design.flipFlops)
      launch(register.clock, register.edge, words.all(register.node), { nodes: q.map(nodeOf), own: delays.clockToOut });
    const blocks = new Set(placeMemories(mapped).flatMap((use, i) => (use.kind === 'block' ? [i] : [])));
    for (const port of design.memoryPorts) {
      if (port.kind !== 'read') continue;
      const memory = design.source.memories[port.memory];
      const clock = memory?.writes[0]?.clock;
      if (blocks.has(port.memory) && memory && clock !== undefined)
        launch(clock, 'posedge', [memory.name], { nodes: port.data.map(nodeOf), own: delays.memoryClockToOut });
      else for (const bit of port.data) this.#reads.set(nodeOf(bit), port.address);
    }
    this.#order = this.#ordered();
    this.launches = [...kinds.values()].map(({ starts, ...rest }) => ({ ...rest, settled: this.from(starts) }));
  }

  /** When everything settles that depends on some nodes. */
  from(starts: readonly Start[]): Settled {
    const size = this.#mapped.logic.kind.length;
    const settled = { at: new Float64Array(size).fill(NEVER), before: new Int32Array(size).fill(-1) };
    for (const { nodes, own } of starts) for (const node of nodes) settled.at[node] = own;
    this.#propagate(settled.at, settled.before);
    return settled;
  }

  /** Nanoseconds until an end, without what it takes itself; null where nothing arrives. */
  until(literal: Literal, { at }: Settled): number | null {
    const time = at[nodeOf(literal)] ?? NEVER;
    return time === NEVER ? null : time + this.#route(nodeOf(literal));
  }

  /** Delay of the wires from a node to what it reaches. */
  #route(node: number): number {
    return this.#delays.route + this.#delays.routeGrowth * Math.log2(Math.max(1, wordAt(this.#mapped.fanout, node)));
  }

  path(end: PathEnd, settled: Settled, { slack, cycles = 1, clockIn = 0 }: PathTimes): TimingPath {
    const nodes: number[] = [];
    for (let node = nodeOf(end.literal); node >= 0; node = intAt(settled.before, node)) nodes.unshift(node);
    const steps: Step[] = [];
    let at = 0;
    const put = (step: Omit<Step, 'at'>) => {
      at += step.own;
      steps.push({ ...step, at });
    };
    const nowhere = { fanout: 1, file: '', line: 0 };
    if (clockIn > 0) put({ what: 'clock', name: 'in, to the registers', own: clockIn, ...nowhere });
    for (const [i, node] of nodes.entries()) {
      const { file, line } = this.#placeOf(node);
      const fanout = wordAt(this.#mapped.fanout, node);
      const own = floatAt(settled.at, node) + Math.max(0, clockIn) - at;
      put({ what: this.#kindOf(node, i === 0), name: this.#nameOf(node), own, fanout, file, line });
      const reached = `to ${fanout} ${fanout === 1 ? 'place' : 'places'}`;
      put({ what: 'wire', name: reached, own: this.#route(node), fanout, file, line });
    }
    const place = this.#placeOf(nodeOf(end.literal));
    put({ what: end.isPin ? 'pin' : 'setup', name: end.name, own: end.setup, fanout: 1, ...place });
    if (clockIn < 0) put({ what: 'clock', name: 'in, to the register', own: clockIn, ...nowhere });
    const advice = adviceFor(steps, this.#delays);
    const first = numberAt(nodes, 0);
    return {
      ...{ from: this.#nameOf(first), to: end.name, delay: at, slack, levels: nodes.length - 1, steps },
      ends: { from: this.#wholeOf(first), to: end.names?.[0] ?? end.name },
      ...(cycles > 1 ? { cycles } : {}),
      ...(advice === null ? {} : { advice }),
    };
  }

  /** Where the statement stands that a node was made for. */
  #placeOf(node: number): { readonly file: string; readonly line: number } {
    const { design, logic } = this.#mapped;
    const origin = design.source.origins[numberAt(logic.madeFor, node)];
    return { file: origin?.file ?? '', line: origin?.line ?? 0 };
  }

  #kindOf(node: number, first: boolean): Step['what'] {
    const { logic } = this.#mapped;
    if (logic.kind[node] === NODE.chain) return 'carry chain';
    if (logic.kind[node] === NODE.table) return 'LUT';
    const word = numberAt(logic.madeFor, node);
    const op = this.#mapped.design.source.nodes[word]?.op;
    return op === 'input' ? 'pin' : op !== 'memread' && first ? 'register' : 'memory';
  }

  /** The register or the memory that a bit is of. */
  #wholeOf(node: number): string {
    const word = numberAt(this.#mapped.logic.madeFor, node);
    return this.#names.all(word)[0] ?? this.#nameOf(node);
  }

  #nameOf(node: number): string {
    const { logic, design } = this.#mapped;
    const { source } = design;
    const word = numberAt(logic.madeFor, node);
    const made = source.nodes[word];
    if (made?.op === 'memread') return source.memories[made.memory]?.name ?? 'memory';
    return logic.kind[node] === NODE.leaf
      ? this.#names.bit(word, node - this.#firstBit(node, word))
      : this.#names.of(word);
  }

  /** Bits of a leaf word follow one another. */
  #firstBit(node: number, word: number): number {
    let first = node;
    const { kind, madeFor } = this.#mapped.logic;
    while (madeFor[first - 1] === word && kind[first - 1] === NODE.leaf) first--;
    return first;
  }

  /** Every node after those it depends on, the address of an asynchronous read among them. */
  #ordered(): number[] {
    const { logic } = this.#mapped;
    const sources = (node: number): readonly number[] => this.#reads.get(node)?.map(nodeOf) ?? logic.sources(node);
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

  #propagate(at: Float64Array, before: Int32Array): void {
    const { logic } = this.#mapped;
    const later = (node: number, from: number, own: number) => {
      const start = floatAt(at, from);
      if (start === NEVER || from === 0) return;
      const time = start + this.#route(from) + own;
      if (time > floatAt(at, node)) {
        at[node] = time;
        before[node] = from;
      }
    };
    const timed = new Set<number>();
    for (const node of this.#order) {
      const kind = logic.kind[node];
      if (kind === NODE.leaf)
        for (const bit of this.#reads.get(node) ?? []) later(node, nodeOf(bit), this.#delays.tableMemory);
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
      const time = floatAt(at, node) + this.#route(node) + this.#delays.lut;
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
