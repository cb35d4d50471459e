import type { Memory, Netlist, NetNode, NodeId } from '../netlist/index.ts';
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
    for (const [id, { op, args, memory }] of nodes.entries()) {
      for (const arg of args) users[arg]?.push(id);
      if (op === 'memread') readers[memory ?? 0]?.push(id);
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
    ].map((node) => ({ node, level: this.#values[node] as Logic }));
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
    const value = this.#values[port.node] as Logic;
    if (port.enable === undefined) return value;
    const enable = this.#values[port.enable] as Logic;
    const floats = ~(enable.value | enable.unknown) & ((1n << BigInt(port.width)) - 1n);
    return { value: (value.value | enable.unknown) & ~floats, unknown: value.unknown | floats | enable.unknown };
  }

  /** A node of the netlist, for those that show inner signals. */
  at(node: NodeId): Logic {
    return this.#values[node] as Logic;
  }

  #put(node: NodeId, value: Logic): boolean {
    const before = this.#values[node] as Logic;
    if (before.value === value.value && before.unknown === value.unknown) return false;
    this.#values[node] = value;
    for (const user of this.#users[node] as NodeId[]) this.#dirty[user] = 1;
    return true;
  }

  /** Node numbers are in order of dependence, so that one pass is enough. */
  #evaluate(): void {
    const { nodes } = this.#netlist;
    for (let id = 0; id < nodes.length; id++) {
      if (!this.#dirty[id]) continue;
      this.#dirty[id] = 0;
      const node = nodes[id] as NetNode;
      if (node.op === 'input' || node.op === 'reg') continue;
      this.#put(
        id,
        node.op === 'memread'
          ? this.#read(node)
          : evaluateFourState(
              node,
              node.args.map((arg) => this.#values[arg] as Logic),
              node.args.map((arg) => (nodes[arg] as NetNode).width),
            ),
      );
    }
  }

  #read({ memory = 0, width, args }: NetNode): Logic {
    const address = this.#values[args[0] as NodeId] as Logic;
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
        const now = this.#values[clock.node] as Logic;
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
      .filter(
        ({ clock, edge, reset }) => moved(clock, edge) && !(reset !== null && isOne(this.#values[reset] as Logic)),
      )
      .map(({ node, d }) => ({ node, value: this.#values[d] as Logic }));
    const stores = memories.flatMap((memory, index) =>
      memory.writes
        .filter((write) => moved(write.clock, write.edge) && isOne(this.#values[write.enable] as Logic))
        .map((write) => ({
          memory,
          index,
          address: this.#values[write.address] as Logic,
          data: this.#values[write.data] as Logic,
        })),
    );
    for (const { node, value } of next) this.#put(node, value);
    for (const store of stores) this.#store(store);
  }

  #store({ memory, index, address, data }: { memory: Memory; index: number; address: Logic; data: Logic }): void {
    if (address.unknown || address.value >= BigInt(memory.depth)) return;
    this.#memories[index]?.set(Number(address.value), data);
    for (const reader of this.#readers[index] as NodeId[]) this.#dirty[reader] = 1;
  }

  /** Asynchronous resets; one may release another, hence the loop. */
  #reset(): void {
    for (let round = 0; round < MOST_RIPPLES; round++) {
      let moved = false;
      for (const { node, reset, resetValue, load } of this.#netlist.registers)
        if (reset !== null && isOne(this.#values[reset] as Logic))
          moved = this.#put(node, load === null ? known(resetValue) : (this.#values[load] as Logic)) || moved;
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
