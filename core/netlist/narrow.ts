import { item } from '../lists.ts';
import { NetBuilder } from './builder.ts';
import { compacted } from './compact.ts';
import { allKnown, type Known, signedBits, unsignedBits } from './known.ts';
import { registerRanges } from './ranges.ts';
import { type Rotation, rotationOf } from './rotate.ts';
import { sharedSum } from './share.ts';
import { emptyNetlist, isLeaf, type Netlist, type NetNode, type NodeId, type Op } from './types.ts';
import { takenBy, usesIn } from './uses.ts';

/** Operations whose low bits depend on no higher bits of their arguments. */
const LOW_FIRST: ReadonlySet<Op> = new Set<Op>(['add', 'sub', 'mul', 'and', 'or', 'xor', 'not', 'mux']);

interface NarrowOptions {
  /** What is known of registers; found out where it is not given. */
  readonly ranges?: ReadonlyMap<NodeId, Known>;
  /** Makes one sum of a choice between two. */
  readonly sharesSums?: boolean;
  /** Bits that words go by: 1 where each one counts, 32 where those of one machine word cost the same. */
  readonly grain?: number;
}

/**
 * Makes words no wider than anybody looks at, and than what they can hold: a counter written as `q + 1` is computed in
 * 32 bits by the language and cut to its width, so the upper ones need not be there; one that wraps at 59 has six bits,
 * however many it was declared with. Takes and gives an optimised netlist, and where each node went.
 */
export function narrow(
  source: Netlist,
  { ranges = registerRanges(source), sharesSums = false, grain = 1 }: NarrowOptions = {},
): { readonly netlist: Netlist; readonly moved: readonly NodeId[] } {
  const seen = bitsSeen(source);
  const target: Netlist = {
    ...emptyNetlist(),
    cells: source.cells,
    memories: source.memories.map((memory) => ({ ...memory, writes: [] })),
  };
  const build = new NetBuilder(target);
  const moved: NodeId[] = [];
  const known = allKnown(source, ranges);
  const copy = new Copy({ source, known, moved, build, grain, uses: sharesSums ? usesIn(source) : null });
  for (const [id, node] of source.nodes.entries()) {
    build.origin = source.origins[id];
    moved[id] = copy.of(id, wholeGrains(item(seen, id), node.width, grain));
  }
  const at = (id: NodeId): NodeId => item(moved, id);
  const whole = (id: NodeId): NodeId => build.resize(at(id), item(source.nodes, id).width, false);
  for (const port of source.outputs)
    target.outputs.push({
      ...port,
      node: whole(port.node),
      ...(port.enable === undefined ? {} : { enable: whole(port.enable) }),
    });
  for (const r of source.registers) {
    const range = item(known, r.node);
    const bits = wholeGrains(unsignedBits(range), item(source.nodes, r.node).width, grain);
    target.registers.push({
      ...r,
      node: build.slice(at(r.node), 0, bits),
      clock: at(r.clock),
      d: build.resize(at(r.d), bits, false),
      reset: r.reset === null ? null : at(r.reset),
      load: r.load === null ? null : build.resize(at(r.load), bits, false),
    });
  }
  for (const [i, memory] of source.memories.entries())
    for (const w of memory.writes)
      target.memories[i]?.writes.push({
        ...w,
        clock: at(w.clock),
        enable: at(w.enable),
        address: whole(w.address),
        data: whole(w.data),
      });
  for (const signal of source.signals) target.signals.push({ ...signal, node: whole(signal.node) });
  return compacted(target, moved);
}

/** How many of each node's bits, from the lowest, somebody needs. */
function bitsSeen(source: Netlist): number[] {
  const seen = source.nodes.map(() => 0);
  const ask = (id: NodeId, bits: number) => {
    if (item(seen, id) < bits) seen[id] = bits;
  };
  const all = (id: NodeId) => ask(id, item(source.nodes, id).width);
  for (const id of [...takenBy(source), ...source.registers.map(({ node }) => node)]) all(id);
  for (const { node } of source.signals) all(node);
  for (let id = source.nodes.length - 1; id >= 0; id--) {
    const node = item(source.nodes, id);
    const needed = item(seen, id);
    if (node.op === 'slice') ask(node.args[0], Math.min(node.lo + needed, node.lo + node.width));
    else if (node.op === 'concat') askParts(source, node.args, needed, ask);
    else if (node.op === 'mux') {
      const [condition, ...choices] = node.args;
      all(condition);
      for (const choice of choices) ask(choice, needed);
    } else if (node.op === 'shl') {
      ask(node.args[0], needed);
      all(node.args[1]);
    } else if (LOW_FIRST.has(node.op)) for (const arg of node.args) ask(arg, needed);
    else for (const arg of node.args) all(arg);
  }
  return seen;
}

function askParts(
  source: Netlist,
  args: readonly NodeId[],
  needed: number,
  ask: (id: NodeId, bits: number) => void,
): void {
  let at = 0;
  for (const arg of args) {
    const { width } = item(source.nodes, arg);
    if (needed > at) ask(arg, Math.min(width, needed - at));
    at += width;
  }
}

interface Copying {
  readonly source: Netlist;
  readonly known: readonly Known[];
  readonly moved: readonly NodeId[];
  readonly build: NetBuilder;
  readonly grain: number;
  /** How often each node is taken, where choices between sums are to be one sum. */
  readonly uses: readonly number[] | null;
}

/** Makes nodes of an optimised netlist anew, each as narrow as what is known of it and what is looked at. */
class Copy {
  readonly #source: Netlist;
  readonly #known: readonly Known[];
  readonly #moved: readonly NodeId[];
  readonly #build: NetBuilder;

  readonly #grain: number;
  readonly #uses: readonly number[] | null;

  constructor({ source, known, moved, build, grain, uses }: Copying) {
    this.#source = source;
    this.#known = known;
    this.#moved = moved;
    this.#build = build;
    this.#grain = grain;
    this.#uses = uses;
  }

  /** The lowest `width` bits of a node. */
  of(id: NodeId, width: number): NodeId {
    const build = this.#build;
    const node = item(this.#source.nodes, id);
    const known = item(this.#known, id);
    if (known.min === known.max && !isLeaf(node)) return build.constant(known.min, width);
    const turned = rotationOf(this.#source, this.#known, id);
    if (turned !== null) return build.slice(this.#rotated(turned, node.width), 0, width);
    switch (node.op) {
      case 'const':
        return build.constant(node.value, node.width);
      case 'input':
        return build.input(node.name, node.width);
      case 'reg':
        return build.resize(build.register(this.#whole(unsignedBits(known), node.width)), node.width, false);
      case 'memread':
        return build.memoryRead(node.memory, node.width, this.#arg(node, 0));
      case 'slice':
        return build.slice(this.#arg(node, 0), node.lo, width);
      case 'concat':
        return build.slice(build.concat(node.args.map((_, i) => this.#arg(node, i))), 0, width);
      case 'eq':
      case 'ltu':
      case 'lts':
        return this.#comparison(node);
      case 'redand':
      case 'redor':
      case 'redxor':
        return build.reduce(node.op, this.#arg(node, 0));
      case 'mux':
      case 'add':
      case 'sub':
      case 'mul':
      case 'and':
      case 'or':
      case 'xor':
        return this.#asNarrow(node, known, width);
      case 'not':
        return build.not(this.#arg(node, 0, width));
      case 'shl':
        return build.make('shl', width, [this.#arg(node, 0, width), this.#short(node, 1)]);
      case 'shr':
        return this.#shr(node, width);
      case 'divs':
      case 'mods':
        return this.#signedDivision(node);
      case 'wire':
        throw new RangeError('wires are gone once a netlist is optimised');
      default:
        return build.make(
          node.op,
          node.width,
          node.args.map((_, i) => this.#arg(node, i)),
        );
    }
  }

  #whole = (bits: number, width: number): number => wholeGrains(bits, width, this.#grain);

  #arg(node: NetNode, i: number, bits?: number): NodeId {
    const from = item<NodeId>(node.args, i);
    return this.#build.resize(item(this.#moved, from), bits ?? item(this.#source.nodes, from).width, false);
  }

  #knownArg = (node: NetNode, i: number): Known => item(this.#known, item<NodeId>(node.args, i));

  /** An argument without its zeros at the top, at least one bit. */
  #short(node: NetNode, i: number): NodeId {
    const { width } = item(this.#source.nodes, item<NodeId>(node.args, i));
    return this.#arg(node, i, this.#whole(unsignedBits(this.#knownArg(node, i)), width));
  }

  /** Bits above those that the value needs are zeros, or copies of its sign. */
  #asNarrow(node: NetNode, known: Known, width: number): NodeId {
    const build = this.#build;
    const unsigned = Math.max(1, unsignedBits(known));
    const signed = signedBits(known);
    const isSigned = signed < unsigned && signed < width;
    const bits = this.#whole(isSigned ? signed : unsigned, width);
    const arg = (i: number) => this.#arg(node, i, bits);
    const made = (): NodeId => {
      switch (node.op) {
        case 'mux': {
          const shared = this.#uses === null ? null : sharedSum(this.#source, this.#uses, node.args[1], node.args[2]);
          const of = (id: NodeId) => build.resize(item(this.#moved, id), bits, false);
          return shared ? shared(build, this.#arg(node, 0), of) : build.mux(this.#arg(node, 0), arg(1), arg(2));
        }
        case 'add':
          return build.add(arg(0), arg(1));
        case 'sub':
          return build.sub(arg(0), arg(1));
        case 'and':
          return build.and(arg(0), arg(1));
        case 'or':
          return build.or(arg(0), arg(1));
        case 'xor':
          return build.xor(arg(0), arg(1));
        default:
          return build.make('mul', bits, [arg(0), arg(1)]);
      }
    };
    return build.resize(made(), width, isSigned);
  }

  #comparison(node: NetNode): NodeId {
    const build = this.#build;
    const [x, y] = [this.#knownArg(node, 0), this.#knownArg(node, 1)];
    const unsigned = Math.max(1, unsignedBits(x), unsignedBits(y));
    const signed = Math.max(signedBits(x), signedBits(y));
    const bits = this.#whole(Math.min(unsigned, signed), item(this.#source.nodes, item<NodeId>(node.args, 0)).width);
    const [a, b] = [this.#arg(node, 0, bits), this.#arg(node, 1, bits)];
    if (node.op === 'eq') return build.eq(a, b);
    // The sign of a word that is never negative is 0: the order is that of words without one.
    const isUnsigned = node.op === 'ltu' || unsigned < signed;
    return build.make(isUnsigned ? 'ltu' : 'lts', 1, [a, b]);
  }

  /** The word twice, shifted, and one half of that. */
  #rotated({ word, amount, towards }: Rotation, width: number): NodeId {
    const build = this.#build;
    const whole = build.resize(item(this.#moved, word), width, false);
    const bits = this.#whole(unsignedBits(item(this.#known, amount)), item(this.#source.nodes, amount).width);
    const by = build.resize(item(this.#moved, amount), bits, false);
    const twice = build.concat([whole, whole]);
    const shifted = build.make(towards === 'up' ? 'shl' : 'shr', width * 2, [twice, by]);
    return build.slice(shifted, towards === 'up' ? width : 0, width);
  }

  /** What is shifted out at the bottom is all that is there. */
  #shr(node: NetNode, width: number): NodeId {
    const { width: whole } = item(this.#source.nodes, item<NodeId>(node.args, 0));
    const bits = this.#whole(unsignedBits(this.#knownArg(node, 0)), whole);
    const made = this.#build.make('shr', bits, [this.#arg(node, 0, bits), this.#short(node, 1)]);
    return this.#build.resize(made, width, false);
  }

  /** Of words that are never negative as of unsigned ones, which are made narrower where they are written out. */
  #signedDivision(node: NetNode): NodeId {
    const args = node.args.map((_, i) => this.#arg(node, i));
    const isPlain = node.args.every((_, i) => unsignedBits(this.#knownArg(node, i)) < node.width);
    const plain = node.op === 'divs' ? 'divu' : 'modu';
    return this.#build.make(isPlain ? plain : (node.op as 'divs' | 'mods'), node.width, args);
  }
}

/** At least one bit, no more than there are. */
const wholeGrains = (bits: number, width: number, grain: number): number =>
  Math.min(width, Math.max(1, Math.ceil(bits / grain) * grain));
