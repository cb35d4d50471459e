// Logic of three values out of logic of two: beside every word one that says which of its bits are not known.
import { item } from '../lists.ts';
import {
  emptyNetlist,
  type Memory,
  NetBuilder,
  type Netlist,
  type NetNode,
  type NodeId,
  type Register,
} from '../netlist/index.ts';

/** A word and its unknown bits; a bit of `value` is 0 where it is not known. */
interface Pair {
  readonly value: NodeId;
  readonly unknown: NodeId;
}

/** Where the two halves of a word are. */
interface HalfNames {
  readonly value: string;
  readonly unknown: string;
}

export interface Dual {
  readonly netlist: Netlist;
  /** By the name in the netlist of two values. An input that is always known has one half alone. */
  readonly inputs: ReadonlyMap<string, { readonly value: string; readonly unknown: string | null }>;
  readonly outputs: ReadonlyMap<string, HalfNames>;
  /** Places among `netlist.registers` of the halves of each register, in their order. */
  readonly registers: readonly HalfPlaces[];
  /** Places among `netlist.memories`, in the order of the memories. */
  readonly memories: readonly DualMemory[];
}

interface HalfPlaces {
  readonly value: number;
  readonly unknown: number;
  readonly width: number;
}

/**
 * A word of a memory is known as far as `unknown` says if its mark is the one of now; a write to an unknown place
 * begins another mark, so that no word is known any more.
 */
interface DualMemory {
  readonly value: number;
  readonly unknown: number;
  readonly marks: number;
  /** Place among the registers of the mark of now. */
  readonly now: number;
}

const MARK_BITS = 32;

/**
 * What follows from what is known and no more: an unknown bit stays one unless the operation does not depend on it. All
 * registers, and all memories that are written, are unknown at power-up. `known`: inputs that never carry x. The
 * netlist has no asynchronous resets.
 *
 * @source bitwise operators and choices: IEEE 1364-2005, clause 5.1 (a choice by x keeps the bits that both sides
 * share); sums: H. Vishwanathan and others, Sound, precise, and fast abstract interpretation with tristate numbers,
 * 2022
 */
export function dualOf(source: Netlist, known: ReadonlySet<string>): Dual {
  return new Doubling(source, known).dual();
}

class Doubling {
  readonly #source: Netlist;
  readonly #known: ReadonlySet<string>;
  readonly #target: Netlist = emptyNetlist();
  readonly #build = new NetBuilder(this.#target);
  readonly #pairs: Pair[] = [];
  readonly #inputs = new Map<string, { value: string; unknown: string | null }>();
  readonly #registers: HalfPlaces[] = [];
  readonly #memories: DualMemory[] = [];
  readonly #marks: NodeId[] = [];

  constructor(source: Netlist, known: ReadonlySet<string>) {
    this.#source = source;
    this.#known = known;
  }

  dual(): Dual {
    const { nodes, registers, memories, outputs } = this.#source;
    for (const { name, node, width } of this.#source.inputs) this.#input(name, node, width);
    const halves = registers.map(({ node }) => {
      const { width } = item(nodes, node);
      const pair = { value: this.#build.register(width), unknown: this.#build.register(width) };
      this.#pairs[node] = pair;
      return pair;
    });
    for (const memory of memories) this.#memory(memory);
    for (const [id, node] of nodes.entries()) this.#pairs[id] ??= this.#pair(node);
    for (const [i, register] of registers.entries()) this.#close(register, item(halves, i));
    for (const [i, memory] of memories.entries()) this.#write(i, memory);
    const named = new Map<string, HalfNames>();
    for (const { name, node, width } of outputs) {
      const pair = this.#of(node);
      this.#target.outputs.push({ name: `${name} v`, node: pair.value, width });
      this.#target.outputs.push({ name: `${name} u`, node: pair.unknown, width });
      named.set(name, { value: `${name} v`, unknown: `${name} u` });
    }
    return {
      netlist: this.#target,
      inputs: this.#inputs,
      outputs: named,
      registers: this.#registers,
      memories: this.#memories,
    };
  }

  #of(id: NodeId): Pair {
    return item(this.#pairs, id);
  }

  #zero(width: number): NodeId {
    return this.#build.constant(0n, width);
  }

  #ones(width: number): NodeId {
    return this.#build.constant(-1n, width);
  }

  #input(name: string, node: NodeId, width: number): void {
    const value = this.#build.input(name, width);
    const isKnown = this.#known.has(name);
    const half = `${name} u`;
    const unknown = isKnown ? this.#zero(width) : this.#build.input(half, width);
    this.#inputs.set(name, { value: name, unknown: isKnown ? null : half });
    this.#pairs[node] = { value, unknown };
  }

  #pair(node: NetNode): Pair {
    const build = this.#build;
    const { width } = node;
    const arg = (i: number): Pair => this.#of(item(node.args, i));
    const argWidth = (i: number): number => item(this.#source.nodes, item(node.args, i)).width;
    switch (node.op) {
      case 'const':
        return { value: build.constant(node.value, width), unknown: this.#zero(width) };
      case 'wire': {
        const [driver] = node.args;
        return driver === undefined ? { value: this.#zero(width), unknown: this.#ones(width) } : this.#of(driver);
      }
      case 'not':
        return this.#not(arg(0), width);
      case 'and':
        return this.#and(arg(0), arg(1));
      case 'or': {
        const [a, b] = [arg(0), arg(1)];
        const value = build.or(a.value, b.value);
        return { value, unknown: build.and(build.or(a.unknown, b.unknown), build.not(value)) };
      }
      case 'xor': {
        const [a, b] = [arg(0), arg(1)];
        return this.#masked(build.xor(a.value, b.value), build.or(a.unknown, b.unknown));
      }
      case 'mux':
        return this.#choice(arg(0), arg(1), arg(2), width);
      case 'concat': {
        const parts = node.args.map((id) => this.#of(id));
        return { value: build.concat(parts.map((p) => p.value)), unknown: build.concat(parts.map((p) => p.unknown)) };
      }
      case 'slice': {
        const a = arg(0);
        return { value: build.slice(a.value, node.lo, width), unknown: build.slice(a.unknown, node.lo, width) };
      }
      case 'sext': {
        const a = arg(0);
        return { value: build.resize(a.value, width, true), unknown: build.resize(a.unknown, width, true) };
      }
      case 'redand': {
        const a = arg(0);
        const value = build.reduce('redand', a.value);
        const isZero = build.not(build.reduce('redand', build.or(a.value, a.unknown)));
        return { value, unknown: build.and(build.not(value), build.not(isZero)) };
      }
      case 'redor': {
        const a = arg(0);
        const value = build.reduce('redor', a.value);
        return { value, unknown: build.and(build.not(value), build.reduce('redor', a.unknown)) };
      }
      case 'redxor': {
        const a = arg(0);
        return this.#masked(build.reduce('redxor', a.value), build.reduce('redor', a.unknown));
      }
      case 'eq': {
        const [a, b] = [arg(0), arg(1)];
        const open = build.or(a.unknown, b.unknown);
        const differs = build.reduce('redor', build.and(build.xor(a.value, b.value), build.not(open)));
        const isOpen = build.and(build.not(differs), build.reduce('redor', open));
        return { value: build.and(build.not(differs), build.not(isOpen)), unknown: isOpen };
      }
      case 'add': {
        const [a, b] = [arg(0), arg(1)];
        const least = build.add(a.value, b.value);
        const most = build.add(build.add(a.unknown, b.unknown), least);
        return this.#masked(least, build.or(build.or(build.xor(least, most), a.unknown), b.unknown));
      }
      case 'sub': {
        const [a, b] = [arg(0), arg(1)];
        const value = build.sub(a.value, b.value);
        const moved = build.xor(build.add(value, a.unknown), build.sub(value, b.unknown));
        return this.#masked(value, build.or(build.or(moved, a.unknown), b.unknown));
      }
      case 'ltu':
        return this.#less(arg(0), arg(1));
      case 'lts': {
        const top = build.constant(1n << BigInt(argWidth(0) - 1), argWidth(0));
        const flipped = (a: Pair) => this.#masked(build.xor(a.value, top), a.unknown);
        return this.#less(flipped(arg(0)), flipped(arg(1)));
      }
      case 'mul':
        return this.#product(arg(0), arg(1), width);
      case 'shl':
      case 'shr':
      case 'sra':
        return this.#shift(node.op, arg(0), arg(1), width);
      case 'divu':
      case 'divs':
      case 'modu':
      case 'mods': {
        const [a, b] = [arg(0), arg(1)];
        const isOpen = build.reduce('redor', build.or(a.unknown, b.unknown));
        return this.#masked(build.make(node.op, width, [a.value, b.value]), this.#spread(isOpen, width));
      }
      case 'memread':
        return this.#read(node.memory, arg(0), width);
      case 'input':
      case 'reg':
        throw new RangeError(`a ${node.op} that is none of the netlist`);
    }
  }

  /** A value with 0 where it is not known. */
  #masked(value: NodeId, unknown: NodeId): Pair {
    return { value: this.#build.and(value, this.#build.not(unknown)), unknown };
  }

  #spread(bit: NodeId, width: number): NodeId {
    return width === 1 ? bit : this.#build.mux(bit, this.#ones(width), this.#zero(width));
  }

  #not({ value, unknown }: Pair, width: number): Pair {
    return width === 1 && this.#build.constantOf(unknown) === 0n
      ? { value: this.#build.not(value), unknown }
      : this.#masked(this.#build.not(value), unknown);
  }

  #and(a: Pair, b: Pair): Pair {
    const build = this.#build;
    const value = build.and(a.value, b.value);
    const most = build.and(build.or(a.value, a.unknown), build.or(b.value, b.unknown));
    return { value, unknown: build.and(build.or(a.unknown, b.unknown), most) };
  }

  #choice(condition: Pair, then: Pair, otherwise: Pair, width: number): Pair {
    const build = this.#build;
    const chosen = {
      value: build.mux(condition.value, then.value, otherwise.value),
      unknown: build.mux(condition.value, then.unknown, otherwise.unknown),
    };
    if (build.constantOf(condition.unknown) === 0n) return chosen;
    const apart = build.or(build.xor(then.value, otherwise.value), build.or(then.unknown, otherwise.unknown));
    const unknown = build.or(chosen.unknown, build.and(apart, this.#spread(condition.unknown, width)));
    return this.#masked(chosen.value, unknown);
  }

  /** By the least and the most that each side can be. */
  #less(a: Pair, b: Pair): Pair {
    const build = this.#build;
    const value = build.make('ltu', 1, [build.or(a.value, a.unknown), b.value]);
    const canBe = build.make('ltu', 1, [a.value, build.or(b.value, b.unknown)]);
    return { value, unknown: build.and(canBe, build.not(value)) };
  }

  /** Known below the lowest bit that is not; the bits above may all depend on it. */
  #product(a: Pair, b: Pair, width: number): Pair {
    const build = this.#build;
    const open = build.or(a.unknown, b.unknown);
    const value = build.make('mul', width, [a.value, b.value]);
    if (build.constantOf(open) === 0n) return { value, unknown: open };
    const below = build.and(build.not(open), build.sub(open, build.constant(1n, width)));
    const isOpen = build.reduce('redor', open);
    const nothing = (p: Pair) => build.not(build.reduce('redor', build.or(p.value, p.unknown)));
    const isZero = build.or(nothing(a), nothing(b));
    const unknown = build.mux(build.and(isOpen, build.not(isZero)), build.not(below), this.#zero(width));
    return this.#masked(value, unknown);
  }

  #shift(op: 'shl' | 'shr' | 'sra', a: Pair, by: Pair, width: number): Pair {
    const build = this.#build;
    const plain = {
      value: build.make(op, width, [a.value, by.value]),
      unknown: build.make(op, width, [a.unknown, by.value]),
    };
    if (build.constantOf(by.unknown) === 0n) return plain;
    const isOpen = build.reduce('redor', by.unknown);
    // A word of nothing but zeros stays one, wherever it is moved.
    const isZero = build.not(build.reduce('redor', build.or(a.value, a.unknown)));
    const lost = build.and(isOpen, build.not(isZero));
    return this.#masked(plain.value, build.or(plain.unknown, this.#spread(lost, width)));
  }

  #close({ d, ...register }: Register, halves: Pair): void {
    const { width } = item(this.#source.nodes, register.node);
    const next = this.#of(d);
    const clock = this.#of(register.clock).value;
    const { edge } = register;
    const add = (node: NodeId, to: NodeId, init: bigint): number =>
      this.#target.registers.push({
        ...{ node, clock, edge, d: to, reset: null, resetValue: 0n, load: null, init, initialised: true },
      }) - 1;
    this.#registers.push({
      value: add(halves.value, next.value, 0n),
      unknown: add(halves.unknown, next.unknown, (1n << BigInt(width)) - 1n),
      width,
    });
  }

  /** Three memories, and the mark of now; one that is never written is known. */
  #memory({ name, width, depth, init, writes }: Memory): void {
    const add = (half: string, bits: number, words: bigint[]): number =>
      this.#target.memories.push({ name: `${name} ${half}`, width: bits, depth, init: words, writes: [] }) - 1;
    const isWritten = writes.length > 0;
    const value = add('v', width, isWritten ? [] : [...init]);
    const unknown = isWritten ? add('u', width, []) : value;
    const marks = isWritten ? add('m', MARK_BITS, []) : value;
    const mark = isWritten ? this.#build.register(MARK_BITS) : this.#zero(MARK_BITS);
    this.#marks.push(mark);
    this.#memories.push({ value, unknown, marks, now: -1 });
  }

  #read(memory: number, address: Pair, width: number): Pair {
    const build = this.#build;
    const places = item(this.#memories, memory);
    const value = build.memoryRead(places.value, width, address.value);
    const isLost = build.reduce('redor', address.unknown);
    if (places.unknown === places.value) return this.#masked(value, this.#spread(isLost, width));
    const word = this.#word(memory, address.value, width);
    const { depth } = item(this.#source.memories, memory);
    // What lies outside is read as 0.
    const limit = build.constant(BigInt(depth), build.width(address.value) + 1);
    const wide = build.resize(address.value, build.width(address.value) + 1, false);
    const isInside = build.make('ltu', 1, [wide, limit]);
    const inside = build.mux(isInside, word.unknown, this.#zero(width));
    return this.#masked(word.value, build.or(inside, this.#spread(isLost, width)));
  }

  /** What stands at a known address. */
  #word(memory: number, address: NodeId, width: number): Pair {
    const build = this.#build;
    const places = item(this.#memories, memory);
    const mark = build.memoryRead(places.marks, MARK_BITS, address);
    const isOld = build.not(build.eq(mark, item(this.#marks, memory)));
    const unknown = build.or(build.memoryRead(places.unknown, width, address), this.#spread(isOld, width));
    return this.#masked(build.memoryRead(places.value, width, address), unknown);
  }

  /**
   * What one port may write or not leaves the bits that both cases share. Ports of one edge come one after another, as
   * their statements do.
   */
  #write(index: number, { width, writes }: Memory): void {
    const build = this.#build;
    const places = item(this.#memories, index);
    const [first] = writes;
    if (!first) return;
    const now = item(this.#marks, index);
    const halves = {
      value: this.#half(places.value),
      unknown: this.#half(places.unknown),
      marks: this.#half(places.marks),
    };
    const before: { address: NodeId; wins: NodeId; pair: Pair }[] = [];
    let isLost = build.constant(0n, 1);
    for (const { clock, edge, ...port } of writes) {
      const [enable, address, data] = [this.#of(port.enable), this.#of(port.address), this.#of(port.data)];
      const can = build.or(enable.value, enable.unknown);
      const isOpen = build.reduce('redor', address.unknown);
      const wins = build.and(can, build.not(isOpen));
      let old = this.#word(index, address.value, width);
      for (const one of before) {
        const isSame = build.and(one.wins, build.eq(one.address, address.value));
        old = {
          value: build.mux(isSame, one.pair.value, old.value),
          unknown: build.mux(isSame, one.pair.unknown, old.unknown),
        };
      }
      const written = this.#choice(enable, data, old, width);
      before.push({ address: address.value, wins, pair: written });
      isLost = build.or(isLost, build.and(can, isOpen));
      const at = { clock: this.#of(clock).value, edge, enable: wins, address: address.value };
      halves.value.push({ ...at, data: written.value });
      halves.unknown.push({ ...at, data: written.unknown });
      halves.marks.push({ ...at, data: now });
    }
    const next = build.mux(isLost, build.add(now, build.constant(1n, MARK_BITS)), now);
    const { clock, edge } = first;
    this.#target.registers.push({
      ...{ node: now, clock: this.#of(clock).value, edge, d: next, reset: null, resetValue: 0n, load: null },
      // No word has this mark yet.
      ...{ init: 1n, initialised: true },
    });
    this.#memories[index] = { ...places, now: this.#target.registers.length - 1 };
  }

  #half(memory: number): Memory['writes'] {
    return item(this.#target.memories, memory).writes;
  }
}
