// A region's logic with what was recorded in the place of what drives it.
import { item } from '../lists.ts';
import {
  emptyNetlist,
  NetBuilder,
  type Netlist,
  type NetNode,
  type NodeId,
  optimise,
  type Port,
  type Register,
} from '../netlist/index.ts';
import { CONSTANT, type Vertex } from './bit-graph.ts';
import type { NamedSignal } from './design.ts';
import type { KnownClock, Region } from './region.ts';

/** A recorded signal or part of one: bit `i` of it is bit `lo + i` of `signal`. */
export interface Recorded {
  readonly name: string;
  readonly signal: NamedSignal;
  readonly lo: number;
  readonly width: number;
}

/** Logic that computes signals from records, sample by sample. */
export interface ReplayProgram {
  /** Two-state, optimised, without asynchronous resets. */
  readonly netlist: Netlist;
  /** Names of inputs that carry what was recorded, one for each of the records given, in their order. */
  readonly inputs: readonly string[];
  /** Of each signal that is computed the output that has it, and whether it is one of those that are to be seen. */
  readonly shown: readonly { readonly signal: NamedSignal; readonly output: string; readonly isWanted: boolean }[];
  /** Of each record the output with what the design says it should be; null where nothing in the design says. */
  readonly own: readonly (string | null)[];
  /** Outputs with what each write port of a memory does. */
  readonly writes: readonly {
    readonly memory: string;
    readonly enable: string;
    readonly address: string;
    readonly data: string;
  }[];
}

const nameOfRecord = (i: number): string => `$record ${i}`;
const nameOfOwn = (i: number): string => `$own ${i}`;
const nameOfShown = (i: number): string => `$shown ${i}`;

/**
 * `shown`: the signals to be computed; `memories`: by name, those whose words are. Bits with several names are recorded
 * under each of them.
 */
export function replayProgram(
  region: Region,
  recorded: readonly Recorded[],
  clocks: readonly KnownClock[],
  { shown, memories }: { readonly shown: readonly NamedSignal[]; readonly memories: readonly string[] },
): ReplayProgram {
  return new Substitution(region, recorded, clocks).program(shown, memories);
}

/** Of which record, and which of its bits, each bit is. */
type Places = ReadonlyMap<Vertex, { readonly record: number; readonly bit: number }>;

class Substitution {
  readonly #region: Region;
  readonly #recorded: readonly Recorded[];
  readonly #clocks: readonly KnownClock[];
  readonly #places: Places;
  readonly #target: Netlist;
  readonly #build: NetBuilder;
  #open = 0;
  /** What a replaced word was before; the moved node. */
  readonly #before = new Map<NodeId, NodeId>();

  constructor(region: Region, recorded: readonly Recorded[], clocks: readonly KnownClock[]) {
    this.#region = region;
    this.#recorded = recorded;
    this.#clocks = clocks;
    this.#places = placesOf(region, recorded);
    const { netlist } = region.design;
    this.#target = {
      ...emptyNetlist(),
      nodes: [...netlist.nodes],
      origins: [...netlist.origins],
      registers: netlist.registers.map((register) => ({ ...register })),
      memories: netlist.memories,
      inputs: [...netlist.inputs],
    };
    this.#build = new NetBuilder(this.#target);
  }

  program(shown: readonly NamedSignal[], memories: readonly string[]): ReplayProgram {
    const records = this.#recorded.map((_, i) => this.#build.input(nameOfRecord(i), item(this.#recorded, i).width));
    this.#replace(records);
    this.#withoutResets();
    const wanted = new Set(this.#region.signals);
    const outputs: Port[] = shown.map(({ node, width }, i) => ({ name: nameOfShown(i), node, width }));
    const own = this.#recorded.map((one, i): string | null => {
      const node = this.#ownOf(one);
      if (node === null) return null;
      outputs.push({ name: nameOfOwn(i), node, width: one.width });
      return nameOfOwn(i);
    });
    const writes = this.#target.memories.flatMap(({ name, writes: ports }, m) =>
      (memories.includes(name) && !this.#isOpenMemory(m) ? ports : []).map(({ enable, address, data }, w) => {
        const port = {
          ...{ memory: name, enable: `$enable ${m} ${w}`, address: `$address ${m} ${w}`, data: `$data ${m} ${w}` },
        };
        outputs.push({ name: port.enable, node: enable, width: 1 });
        outputs.push({ name: port.address, node: address, width: item(this.#target.nodes, address).width });
        outputs.push({ name: port.data, node: data, width: item(this.#target.nodes, data).width });
        return port;
      }),
    );
    const { netlist } = optimise({ ...this.#target, outputs, signals: [] });
    return {
      netlist,
      inputs: records.map((_, i) => nameOfRecord(i)),
      shown: shown.map((signal, i) => ({ signal, output: nameOfShown(i), isWanted: wanted.has(signal) })),
      own,
      writes,
    };
  }

  #isKnown = (vertex: Vertex): boolean => this.#places.has(vertex);

  /** Words of which bits are recorded, and those that nothing tells, are replaced for all who read them. */
  #replace(records: readonly NodeId[]): void {
    const { graph, design } = this.#region;
    const clocks = new Set(
      [...design.netlist.registers, ...design.netlist.memories.flatMap(({ writes }) => writes)].map(
        ({ clock }) => clock,
      ),
    );
    for (const [id, node] of design.netlist.nodes.entries()) {
      if (clocks.has(id) || node.op === 'const' || node.op === 'concat' || node.op === 'slice') continue;
      const bits = graph.bitsOf(id).map((vertex, bit) => (isOwn(graph.wordOf(vertex), id, bit) ? vertex : CONSTANT));
      const isRead = node.op === 'memread' && this.#isOpenMemory(node.memory);
      const undecided =
        isRead || bits.some((vertex) => vertex !== CONSTANT && !this.#isKnown(vertex) && this.#isOpen(vertex));
      if (!undecided && !bits.some(this.#isKnown)) continue;
      const moved = this.#move(id, node);
      const rest = undecided ? this.#unknown(node.width) : moved;
      if (!undecided && node.op !== 'input') this.#before.set(id, moved);
      const parts = bits.map((vertex, bit) => {
        const place = this.#places.get(vertex);
        return place ? this.#build.slice(item(records, place.record), place.bit, 1) : this.#build.slice(rest, bit, 1);
      });
      this.#wire(id, node.width, this.#build.concat(parts));
    }
  }

  /** The word under another number; its own is then free to become another one. */
  #move(id: NodeId, node: NetNode): NodeId {
    const moved = this.#target.nodes.push(node) - 1;
    this.#target.origins[moved] = this.#target.origins[id];
    const register = this.#target.registers.find((one) => one.node === id);
    if (register) this.#target.registers[this.#target.registers.indexOf(register)] = { ...register, node: moved };
    const input = this.#target.inputs.findIndex((port) => port.node === id);
    if (input >= 0) this.#target.inputs[input] = { ...item(this.#target.inputs, input), node: moved };
    return moved;
  }

  #wire(id: NodeId, width: number, driver: NodeId): void {
    this.#target.nodes[id] = { op: 'wire', width, args: [driver], name: `$word ${id}` };
  }

  #unknown(width: number): NodeId {
    return this.#build.input(`$open ${this.#open++}`, width);
  }

  /** Whether nothing in the record tells a bit. */
  #isOpen(vertex: Vertex): boolean {
    return this.#region.reasonOf(vertex, this.#clocks) !== null;
  }

  #isOpenMemory(memory: number): boolean {
    const [first] = this.#region.graph.bitsOfMemory(memory);
    return first !== undefined && this.#isOpen(first);
  }

  /** An active asynchronous reset decides at once what is read, and what is there when it ends. */
  #withoutResets(): void {
    const { registers } = this.#target;
    for (const [i, register] of registers.entries()) {
      const { reset, load, resetValue, node: id, d } = register;
      if (reset === null) continue;
      const node = item(this.#target.nodes, id);
      const state = this.#target.nodes.push(node) - 1;
      this.#target.origins[state] = this.#target.origins[id];
      const value = load ?? this.#build.constant(resetValue, node.width);
      this.#wire(id, node.width, this.#build.mux(reset, value, state));
      const next: Register = { ...register, node: state, reset: null, load: null, d: this.#build.mux(reset, value, d) };
      registers[i] = next;
    }
  }

  /** What the design computes for a record; null where some bit of it is not the design's to say. */
  #ownOf({ signal, lo, width }: Recorded): NodeId | null {
    const { graph } = this.#region;
    const parts: NodeId[] = [];
    for (let bit = lo; bit < lo + width; bit++) {
      const vertex = graph.bit(signal.node, bit);
      const word = vertex === CONSTANT ? null : graph.wordOf(vertex);
      if (word === null) parts.push(this.#build.slice(signal.node, bit, 1));
      else {
        const before = this.#before.get(word.node);
        if (before === undefined || this.#region.reasonOf(vertex, this.#clocks) !== null) return null;
        parts.push(this.#build.slice(before, word.bit, 1));
      }
    }
    return this.#build.concat(parts);
  }
}

const isOwn = (word: { readonly node: NodeId; readonly bit: number } | null, id: NodeId, bit: number): boolean =>
  word !== null && word.node === id && word.bit === bit;

function placesOf({ graph }: Region, recorded: readonly Recorded[]): Places {
  const places = new Map<Vertex, { record: number; bit: number }>();
  for (const [record, { signal, lo, width }] of recorded.entries())
    for (let bit = 0; bit < width; bit++) {
      const vertex = graph.bit(signal.node, lo + bit);
      if (vertex !== CONSTANT && !places.has(vertex)) places.set(vertex, { record, bit });
    }
  return places;
}
