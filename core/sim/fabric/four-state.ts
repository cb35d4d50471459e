import { item } from '../../lists.ts';
import { isLeaf, type Memory, type MemReadNode, type Netlist, type NodeId } from '../../netlist/index.ts';
import { allUnknown, evaluateFourState, known, type Logic } from './logic.ts';

/** Clocks made by logic that never come to rest are left where they are after so many rounds. */
const MOST_RIPPLES = 64;

/**
 * A design simulated with 0, 1, x and z, as it behaves before anything has a known value. Takes a netlist read
 * four-state and optimised as such. Inputs hold until they are set again; those never set are x.
 */
export class FourStateSimulator {
  readonly #netlist: Netlist;
  readonly #values: Logic[];
  readonly #dirty: Uint8Array;
  readonly #users: readonly NodeId[][];
  readonly #readers: readonly NodeId[][];
  readonly #memories: Map<number, Logic>[];
  readonly #clocks: { readonly node: NodeId; level: Logic }[];

  constructor(netlist: Netlist) {
    this.#netlist = netlist;
    const { nodes } = netlist;
    this.#values = nodes.map(({ width }) => allUnknown(width));
    this.#dirty = new Uint8Array(nodes.length).fill(1);
    const users: NodeId[][] = nodes.map(() => []);
    const readers: NodeId[][] = netlist.memories.map(() => []);
    for (const [id, node] of nodes.entries()) {
      for (const arg of node.args) users[arg]?.push(id);
      if (node.op === 'memread') readers[node.memory]?.push(id);
    }
    this.#users = users;
    this.#readers = readers;
    for (const { node, init, initialised } of netlist.registers) if (initialised) this.#values[node] = known(init);
    this.#memories = netlist.memories.map(
      ({ init }) =>
        new Map([...init.entries()].filter(([, word]) => word !== undefined).map(([at, word]) => [at, known(word)])),
    );
    this.#evaluate();
    this.#clocks = [
      ...new Set(
        [...netlist.registers, ...netlist.memories.flatMap((memory) => memory.writes)].map(({ clock }) => clock),
      ),
    ].map((node) => ({ node, level: item(this.#values, node) }));
    this.#reset();
  }

  /** Sets an input; what follows from it, clock edges included, has happened when this returns. */
  set(name: string, value: Logic): void {
    const port = this.#netlist.inputs.find((input) => input.name === name);
    if (port && this.#put(port.node, value)) this.#settle();
  }

  /** Sets several inputs at one moment. */
  setAll(values: ReadonlyMap<string, Logic>): void {
    let moved = false;
    for (const { name, node } of this.#netlist.inputs) {
      const value = values.get(name);
      if (value) moved = this.#put(node, value) || moved;
    }
    if (moved) this.#settle();
  }

  /** An output; bits that float are z. */
  get(name: string): Logic {
    const port = this.#netlist.outputs.find((output) => output.name === name);
    if (!port) return allUnknown(1);
    const value = item(this.#values, port.node);
    if (port.enable === undefined) return value;
    const enable = item(this.#values, port.enable);
    const floats = ~(enable.value | enable.unknown) & ((1n << BigInt(port.width)) - 1n);
    return { value: (value.value | enable.unknown) & ~floats, unknown: value.unknown | floats | enable.unknown };
  }

  /** A node of the netlist, for those that show inner signals. */
  at(node: NodeId): Logic {
    return item(this.#values, node);
  }

  #put(node: NodeId, value: Logic): boolean {
    const before = item(this.#values, node);
    if (before.value === value.value && before.unknown === value.unknown) return false;
    this.#values[node] = value;
    for (const user of item(this.#users, node)) this.#dirty[user] = 1;
    return true;
  }

  /** Node numbers are in order of dependence, so that one pass is enough. */
  #evaluate(): void {
    const { nodes } = this.#netlist;
    for (let id = 0; id < nodes.length; id++) {
      if (!this.#dirty[id]) continue;
      this.#dirty[id] = 0;
      const node = item(nodes, id);
      if (node.op === 'const') this.#put(id, { value: node.value, unknown: node.unknown ?? 0n });
      else if (node.op === 'memread') this.#put(id, this.#read(node));
      else if (!isLeaf(node)) {
        const values = node.args.map((arg) => item(this.#values, arg));
        const widths = node.args.map((arg) => item(nodes, arg).width);
        this.#put(id, evaluateFourState(node, values, widths));
      }
    }
  }

  #read({ memory, width, args }: MemReadNode): Logic {
    const address = item(this.#values, args[0]);
    if (address.unknown) return allUnknown(width);
    return this.#memories[memory]?.get(Number(address.value)) ?? allUnknown(width);
  }

  /** Follows changes until no clock moves any more. Registers on one edge take their values together. */
  #settle(): void {
    for (let round = 0; round < MOST_RIPPLES; round++) {
      this.#evaluate();
      this.#reset();
      const rose = new Set<NodeId>();
      const fell = new Set<NodeId>();
      for (const clock of this.#clocks) {
        const now = item(this.#values, clock.node);
        const before = clock.level;
        clock.level = now;
        if (isRise(before, now)) rose.add(clock.node);
        else if (isRise(now, before)) fell.add(clock.node);
      }
      if (rose.size + fell.size === 0) return;
      this.#clockEdge((node, edge) => (edge === 'posedge' ? rose : fell).has(node));
    }
  }

  #clockEdge(moved: (clock: NodeId, edge: 'posedge' | 'negedge') => boolean): void {
    const { registers, memories } = this.#netlist;
    const next = registers
      .filter(({ clock, edge, reset }) => moved(clock, edge) && !(reset !== null && isOne(item(this.#values, reset))))
      .map(({ node, d }) => ({ node, value: item(this.#values, d) }));
    const stores = memories.flatMap((memory, index) =>
      memory.writes
        .filter((write) => moved(write.clock, write.edge) && isOne(item(this.#values, write.enable)))
        .map((write) => ({
          memory,
          index,
          address: item(this.#values, write.address),
          data: item(this.#values, write.data),
        })),
    );
    for (const { node, value } of next) this.#put(node, value);
    for (const store of stores) this.#store(store);
  }

  #store({ memory, index, address, data }: { memory: Memory; index: number; address: Logic; data: Logic }): void {
    if (address.unknown || address.value >= BigInt(memory.depth)) return;
    this.#memories[index]?.set(Number(address.value), data);
    for (const reader of item(this.#readers, index)) this.#dirty[reader] = 1;
  }

  /** Asynchronous resets; one may release another, hence the loop. */
  #reset(): void {
    for (let round = 0; round < MOST_RIPPLES; round++) {
      let moved = false;
      for (const { node, reset, resetValue, load } of this.#netlist.registers)
        if (reset !== null && isOne(item(this.#values, reset)))
          moved = this.#put(node, load === null ? known(resetValue) : item(this.#values, load)) || moved;
      if (!moved) return;
      this.#evaluate();
    }
  }
}

const isOne = ({ value, unknown }: Logic): boolean => value === 1n && unknown === 0n;

/** From 0 to anything else, or from x to 1. @source IEEE 1364-2005, clause 9.7.2, table 9-1 */
function isRise(before: Logic, now: Logic): boolean {
  const zero = before.value === 0n && before.unknown === 0n;
  return zero ? now.value !== 0n || now.unknown !== 0n : before.unknown !== 0n && isOne(now);
}
