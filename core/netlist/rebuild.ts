import { entry, item } from '../lists.ts';
import { NetBuilder } from './builder.ts';
import { roundsIn } from './components.ts';
import { WIDEST_DIVISION, writtenOutDivision } from './divide.ts';
import { emptyNetlist, nameOf, type Netlist, type NetNode, type NodeId, type Register } from './types.ts';

/** Logic that feeds itself without a register between. `names` are the named points on the way round, in order. */
export interface CombinationalLoop {
  readonly names: readonly string[];
}

export interface RebuildOptions {
  /** Turns every division into subtractions, for mapping. */
  readonly writeOut?: boolean;
}

/** Bits of a word that is there itself; `node` is -1 for bits that feed themselves through wires alone. */
interface Piece {
  readonly node: NodeId;
  readonly lo: number;
  readonly width: number;
}

/** Wires one after another; what is longer is taken as one that never ends. */
const LONGEST_WAY = 2000;

/** A node whose arguments are being rebuilt. */
interface Frame {
  readonly id: NodeId;
  readonly deps: readonly NodeId[];
  next: number;
}

/** One netlist made anew from what its outputs see of another. */
export class Rebuild {
  readonly target: Netlist;
  /** Old node to new node. */
  readonly moved = new Map<NodeId, NodeId>();
  readonly loops: CombinationalLoop[] = [];
  readonly #source: Netlist;
  readonly #build: NetBuilder;
  readonly #options: RebuildOptions;
  readonly #registerOf: ReadonlyMap<NodeId, Register>;
  readonly #registers: Register[] = [];
  readonly #memoryIndex = new Map<number, number>();
  readonly #memories: number[] = [];
  readonly #open = new Set<NodeId>();
  /** Words on any way round, once there is one. */
  #onRound: ReadonlySet<NodeId> | null = null;

  constructor(source: Netlist, options: RebuildOptions) {
    this.#source = source;
    this.#options = options;
    this.target = { ...emptyNetlist(), cells: source.cells };
    this.#build = new NetBuilder(this.target);
    this.#registerOf = new Map(source.registers.map((register) => [register.node, register]));
    for (const port of source.inputs) this.moved.set(port.node, this.#build.input(port.name, port.width));
  }

  /** Everything that an output sees, and after it what that holds: registers and memories have inputs of their own. */
  done(): this {
    for (const { enable, ...port } of this.#source.outputs)
      this.target.outputs.push({
        ...port,
        node: this.#visit(port.node),
        ...(enable === undefined ? {} : { enable: this.#visit(enable) }),
      });
    // A net marked to be kept is an output that no pin shows.
    for (const signal of this.#source.signals) if (signal.keep) this.#visit(signal.node);
    while (this.#registers.length > 0 || this.#memories.length > 0) {
      for (let register = this.#registers.pop(); register; register = this.#registers.pop()) this.#finish(register);
      for (let index = this.#memories.pop(); index !== undefined; index = this.#memories.pop()) this.#fill(index);
    }
    this.#name();
    return this;
  }

  #finish(register: Register): void {
    const { reset, load } = register;
    this.target.registers.push({
      ...register,
      node: entry(this.moved, register.node),
      clock: this.#visit(register.clock),
      d: this.#visit(register.d),
      reset: reset === null ? null : this.#visit(reset),
      load: load === null ? null : this.#visit(load),
    });
  }

  #fill(index: number): void {
    const memory = item(this.target.memories, entry(this.#memoryIndex, index));
    for (const write of item(this.#source.memories, index).writes)
      memory.writes.push({
        ...write,
        clock: this.#visit(write.clock),
        enable: this.#visit(write.enable),
        address: this.#visit(write.address),
        data: this.#visit(write.data),
      });
  }

  /** Declared names of what is left. */
  #name(): void {
    for (const signal of this.#source.signals) {
      const live = this.#bases([signal.node]);
      if (live.length === 0 || !live.every((base) => this.moved.has(base))) continue;
      const at = this.#rebuilt(signal.node);
      this.target.signals.push({ ...signal, node: at });
      this.moved.set(signal.node, at);
    }
  }

  #node(id: NodeId): NetNode {
    return item(this.#source.nodes, id);
  }

  /** What a word is made of, seen through wires, slices and concatenations; lowest bits first. */
  #pieces(id: NodeId): Piece[] {
    const out: Piece[] = [];
    this.#collect({ node: id, lo: 0, width: this.#node(id).width }, out, new Map());
    return out;
  }

  /** `ways` are the stretches of wires it came through. */
  #collect({ node: id, lo, width }: Piece, out: Piece[], ways: Map<string, NodeId>): void {
    const word = this.#node(id);
    if (word.op === 'wire') {
      const [driver] = word.args;
      const way = `${id} ${lo} ${width}`;
      if (driver === undefined || ways.has(way) || ways.size > LONGEST_WAY) {
        if (driver !== undefined)
          this.loops.push({ names: [...new Set([...ways.values()].map((w) => nameOf(this.#node(w)) ?? '?'))] });
        out.push({ node: -1, lo: 0, width });
        return;
      }
      ways.set(way, id);
      this.#collect({ node: driver, lo, width }, out, ways);
      ways.delete(way);
    } else if (word.op === 'slice') this.#collect({ node: word.args[0], lo: lo + word.lo, width }, out, ways);
    else if (word.op === 'concat') {
      let start = 0;
      for (const part of word.args) {
        const size = this.#node(part).width;
        const from = Math.max(lo, start);
        const to = Math.min(lo + width, start + size);
        if (from < to) this.#collect({ node: part, lo: from - start, width: to - from }, out, ways);
        start += size;
      }
    } else out.push({ node: id, lo, width: Math.min(width, word.width) });
  }

  #bases(ids: readonly NodeId[]): NodeId[] {
    return ids.flatMap((id) =>
      this.#pieces(id)
        .map((piece) => piece.node)
        .filter((base) => base >= 0),
    );
  }

  #rebuilt(id: NodeId): NodeId {
    const known = this.moved.get(id);
    if (known !== undefined) return known;
    const build = this.#build;
    return build.concat(
      this.#pieces(id).map(({ node, lo, width }) =>
        node < 0
          ? build.constant(0n, width)
          : build.slice(this.moved.get(node) ?? build.constant(0n, this.#node(node).width), lo, width),
      ),
    );
  }

  /** Depth first with its own stack: designs are deeper than the call stack. */
  #visit(root: NodeId): NodeId {
    const stack: Frame[] = [];
    for (const base of this.#bases([root])) {
      this.#enter(base, stack);
      for (let frame = stack.at(-1); frame; frame = stack.at(-1)) {
        if (frame.next < frame.deps.length) {
          this.#enter(item(frame.deps, frame.next++), stack);
          continue;
        }
        stack.pop();
        this.#open.delete(frame.id);
        if (!this.moved.has(frame.id)) this.moved.set(frame.id, this.#copy(frame.id));
      }
    }
    return this.#rebuilt(root);
  }

  #enter(id: NodeId, stack: Frame[]): void {
    if (this.moved.has(id)) return;
    if (this.#open.has(id)) {
      const round = stack.slice(stack.findIndex((frame) => frame.id === id)).map((frame) => frame.id);
      this.#onRound ??= new Set(roundsIn(this.#source).flat());
      this.loops.push({ names: namesAround(this.#source, round, this.#onRound) });
      this.moved.set(id, this.#build.constant(0n, this.#node(id).width));
      return;
    }
    this.#open.add(id);
    const word = this.#node(id);
    stack.push({ id, deps: word.op === 'reg' ? [] : this.#bases(word.args), next: 0 });
  }

  #copy(id: NodeId): NodeId {
    const build = this.#build;
    const word = this.#node(id);
    const { width } = word;
    const inputs = word.args.map((arg) => this.#rebuilt(arg));
    build.origin = this.#source.origins[id];
    const [a = 0, b = 0, c = 0] = inputs;
    switch (word.op) {
      case 'const':
        return build.constant(word.value, width);
      case 'reg':
        this.#registers.push(entry(this.#registerOf, id));
        return build.register(width);
      case 'memread':
        return build.memoryRead(this.#memoryOf(word.memory), width, a);
      case 'not':
        return build.not(a);
      case 'and':
      case 'or':
      case 'xor':
      case 'add':
      case 'sub':
      case 'eq':
        return build[word.op](a, b);
      case 'mux':
        return build.mux(a, b, c);
      case 'redand':
      case 'redor':
      case 'redxor':
        return build.reduce(word.op, a);
      case 'divu':
      case 'modu':
        return this.#unsignedDivision(word.op, width, a, b);
      case 'divs':
      case 'mods':
        return this.#divided(word.op, a, b);
      case 'input':
      case 'wire':
      case 'slice':
      case 'concat':
        throw new RangeError(`${word.op} ${id} is seen through, not copied`);
      default:
        return build.make(word.op, width, inputs);
    }
  }

  /** As narrow as both operands are; but for a quotient by 0, which has ones in every bit. */
  #unsignedDivision(op: 'divu' | 'modu', width: number, a: NodeId, b: NodeId): NodeId {
    const build = this.#build;
    const needed = Math.max(this.#usedBits(a), this.#usedBits(b), 1);
    const divisor = build.constantOf(b);
    if (needed >= width || (op === 'divu' && (divisor === null || divisor === 0n))) return this.#divided(op, a, b);
    const narrow = this.#divided(op, build.slice(a, 0, needed), build.slice(b, 0, needed));
    return build.resize(narrow, width, false);
  }

  #divided(op: 'divu' | 'modu' | 'divs' | 'mods', a: NodeId, b: NodeId): NodeId {
    const width = this.#build.width(a);
    return this.#isWrittenOut(width, [a, b])
      ? writtenOutDivision(this.#build, op, a, b)
      : this.#build.make(op, width, [a, b]);
  }

  /** Bits of a word below those that are always 0. */
  #usedBits(id: NodeId): number {
    const node = this.#build.node(id);
    if (node.op === 'const') return node.value === 0n ? 0 : node.value.toString(2).length;
    if (node.op !== 'concat') return node.width;
    const last = node.args.at(-1);
    const top = last === undefined ? null : this.#build.node(last);
    return top?.op === 'const' && top.value === 0n ? node.width - top.width : node.width;
  }

  #isWrittenOut(width: number, inputs: readonly NodeId[]): boolean {
    const { writeOut = false } = this.#options;
    if (!writeOut && width <= WIDEST_DIVISION) return false;
    return inputs.some((input) => this.#build.constantOf(input) === null);
  }

  #memoryOf(index: number): number {
    let at = this.#memoryIndex.get(index);
    if (at === undefined) {
      at = this.target.memories.push({ ...item(this.#source.memories, index), writes: [] }) - 1;
      this.#memoryIndex.set(index, at);
      this.#memories.push(index);
    }
    return at;
  }
}

/** Names of declared signals that carry the given nodes, once each; with the bit where it is a part of the signal. */
function namesAround(source: Netlist, ids: readonly NodeId[], onRound: ReadonlySet<NodeId>): string[] {
  const carried = new Set(ids);
  const names = source.signals.flatMap(({ name, node, width }) => {
    // Another name for a signal of the loop, such as the port it leaves by, is not on it.
    if (!onRound.has(node)) return [];
    const parts = partsOf(source, { node, lo: 0, width }, 0, 0);
    const on = parts.filter((part) => carried.has(part.node));
    return parts.length === 1 || on.length === parts.length
      ? on.slice(0, 1).map(() => name)
      : on.map(({ at }) => `${name}[${at}]`);
  });
  return [...new Set(names)];
}

const DEEPEST_PART = 200;

/** What the bits from `at` on of a signal are made of, seen through wires, slices and concatenations. */
function partsOf(source: Netlist, piece: Piece, at: number, depth: number): { node: NodeId; at: number }[] {
  const { node, lo, width } = piece;
  const word = item(source.nodes, node);
  const [first] = word.args;
  if (depth > DEEPEST_PART || first === undefined) return [{ node, at }];
  if (word.op === 'wire') return partsOf(source, { node: first, lo, width }, at, depth + 1);
  if (word.op === 'slice') return partsOf(source, { node: first, lo: lo + word.lo, width }, at, depth + 1);
  if (word.op !== 'concat') return [{ node, at }];
  const parts: { node: NodeId; at: number }[] = [];
  let start = 0;
  for (const part of word.args) {
    const size = item(source.nodes, part).width;
    const [from, to] = [Math.max(lo, start), Math.min(lo + width, start + size)];
    if (from < to)
      parts.push(...partsOf(source, { node: part, lo: from - start, width: to - from }, at + from - lo, depth + 1));
    start += size;
  }
  return parts;
}
