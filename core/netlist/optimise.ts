import { entry, item } from '../lists.ts';
import { NetBuilder } from './builder.ts';
import { WIDEST_DIVISION, writtenOutDivision } from './divide.ts';
import { narrow } from './narrow.ts';
import { emptyNetlist, nameOf, type Netlist, type NetNode, type NodeId, type Register } from './types.ts';

/** Logic that feeds itself without a register between. `names` are the named points on the way round, in order. */
export interface CombinationalLoop {
  readonly names: readonly string[];
}

export interface Optimised {
  /** What is left: only what an output can see, without wires, every argument before its user. */
  readonly netlist: Netlist;
  /** Old node to new node, for those that survived. */
  readonly moved: ReadonlyMap<NodeId, NodeId>;
  readonly loops: readonly CombinationalLoop[];
}

interface Piece {
  readonly node: NodeId;
  readonly lo: number;
  readonly width: number;
}

/**
 * Rebuilds a netlist from its outputs: named wires are seen through, constants travel, equal logic is shared and what
 * nobody sees is dropped. Slices are followed bit by bit through wires and concatenations, so that a vector whose bits
 * feed one another is no false loop. `exact` keeps x and z apart from 0, for a netlist read four-state; `writeOut`
 * turns every division into subtractions, for mapping.
 */
export function optimise(source: Netlist, options: OptimiseOptions = {}): Optimised {
  let known = source;
  for (let round = 0; ; round++) {
    const done = once(known, options);
    const stuck = options.exact || round === MOST_ROUNDS ? [] : stuckRegisters(known, done);
    if (stuck.length === 0) return done;
    known = withConstants(known, stuck);
  }
}

interface OptimiseOptions {
  readonly exact?: boolean;
  readonly writeOut?: boolean;
}

/** A register found constant may make others so. */
const MOST_ROUNDS = 8;

/** Registers that begin with a value and are only ever given the same one again. */
function stuckRegisters(source: Netlist, { netlist, moved }: Optimised): Register[] {
  const stuck = new Set(
    netlist.registers
      .filter(
        ({ node, d, init, reset, resetValue, load }) =>
          load === null &&
          (reset === null || resetValue === init) &&
          (d === node || (netlist.nodes[d]?.op === 'const' && netlist.nodes[d]?.value === init)),
      )
      .map(({ node }) => node),
  );
  return stuck.size === 0 ? [] : source.registers.filter(({ node }) => stuck.has(moved.get(node) ?? -1));
}

function withConstants(source: Netlist, stuck: readonly Register[]): Netlist {
  const nodes = [...source.nodes];
  for (const { node, init } of stuck)
    nodes[node] = { op: 'const', width: item(source.nodes, node).width, args: [], value: init };
  const gone = new Set(stuck);
  return { ...source, nodes, registers: source.registers.filter((register) => !gone.has(register)) };
}

function once(source: Netlist, { exact = false, writeOut = false }: OptimiseOptions): Optimised {
  const target = emptyNetlist();
  const build = new NetBuilder(target, exact);
  const moved = new Map<NodeId, NodeId>();
  const loops: CombinationalLoop[] = [];
  const open = new Set<NodeId>();
  const registerOf = new Map(source.registers.map((register) => [register.node, register]));
  const pendingRegisters: Register[] = [];
  const memoryIndex = new Map<number, number>();
  const pendingMemories: number[] = [];
  const node = (id: NodeId): NetNode => item(source.nodes, id);

  for (const port of source.inputs) moved.set(port.node, build.input(port.name, port.width));

  const piecesOf = (id: NodeId, lo: number, width: number, out: Piece[], wires: Set<NodeId>): void => {
    const word = node(id);
    if (word.op === 'wire') {
      const [driver] = word.args;
      if (driver === undefined || wires.has(id)) {
        if (driver !== undefined) loops.push({ names: [...wires].map((w) => nameOf(node(w)) ?? '?') });
        out.push({ node: -1, lo: 0, width });
        return;
      }
      wires.add(id);
      piecesOf(driver, lo, width, out, wires);
      wires.delete(id);
    } else if (word.op === 'slice') piecesOf(word.args[0], lo + word.lo, width, out, wires);
    else if (word.op === 'concat') {
      let start = 0;
      for (const part of word.args) {
        const size = node(part).width;
        const from = Math.max(lo, start);
        const to = Math.min(lo + width, start + size);
        if (from < to) piecesOf(part, from - start, to - from, out, wires);
        start += size;
      }
    } else out.push({ node: id, lo, width: Math.min(width, word.width) });
  };
  const pieces = (id: NodeId): Piece[] => {
    const out: Piece[] = [];
    piecesOf(id, 0, node(id).width, out, new Set());
    return out;
  };
  const bases = (ids: readonly NodeId[]): NodeId[] =>
    ids.flatMap((id) =>
      pieces(id)
        .map((piece) => piece.node)
        .filter((base) => base >= 0),
    );
  const rebuilt = (id: NodeId): NodeId =>
    moved.get(id) ??
    build.concat(
      pieces(id).map((p) =>
        p.node < 0
          ? build.unknown(p.width)
          : build.slice(moved.get(p.node) ?? build.constant(0n, node(p.node).width), p.lo, p.width),
      ),
    );

  const copy = (id: NodeId): NodeId => {
    const word = node(id);
    const { width } = word;
    const inputs = word.args.map(rebuilt);
    build.origin = source.origins[id];
    const [a = 0, b = 0, c = 0] = inputs;
    switch (word.op) {
      case 'const':
        return build.constant(word.value, width, word.unknown);
      case 'reg': {
        pendingRegisters.push(entry(registerOf, id));
        return build.register(width);
      }
      case 'memread':
        return build.memoryRead(memoryOf(word.memory), width, a);
      case 'not':
        return build.not(a);
      case 'and':
        return build.and(a, b);
      case 'or':
        return build.or(a, b);
      case 'xor':
        return build.xor(a, b);
      case 'add':
        return build.add(a, b);
      case 'sub':
        return build.sub(a, b);
      case 'eq':
        return build.eq(a, b);
      case 'mux':
        return build.mux(a, b, c);
      case 'redand':
      case 'redor':
      case 'redxor':
        return build.reduce(word.op, a);
      case 'divu':
      case 'modu':
      case 'divs':
      case 'mods':
        if ((writeOut || width > WIDEST_DIVISION) && !exact && inputs.some((input) => build.constantOf(input) === null))
          return writtenOutDivision(build, word.op, a, b);
        return build.make(word.op, width, inputs);
      case 'input':
      case 'wire':
      case 'slice':
      case 'concat':
        throw new RangeError(`${word.op} ${id} is seen through, not copied`);
      default:
        return build.make(word.op, width, inputs);
    }
  };
  const memoryOf = (index: number): number => {
    let at = memoryIndex.get(index);
    if (at === undefined) {
      at = target.memories.push({ ...item(source.memories, index), writes: [] }) - 1;
      memoryIndex.set(index, at);
      pendingMemories.push(index);
    }
    return at;
  };

  /** Depth first with its own stack: designs are deeper than the call stack. */
  const visit = (root: NodeId): NodeId => {
    const stack: { id: NodeId; deps: NodeId[]; next: number }[] = [];
    const enter = (id: NodeId) => {
      if (moved.has(id)) return;
      if (open.has(id)) {
        const from = stack.findIndex((frame) => frame.id === id);
        loops.push({
          names: namesAround(
            source,
            stack.slice(from).map((frame) => frame.id),
          ),
        });
        moved.set(id, build.constant(0n, node(id).width));
        return;
      }
      open.add(id);
      stack.push({ id, deps: node(id).op === 'reg' ? [] : bases(node(id).args), next: 0 });
    };
    for (const base of bases([root])) {
      enter(base);
      for (let frame = stack.at(-1); frame; frame = stack.at(-1)) {
        if (frame.next < frame.deps.length) {
          enter(item(frame.deps, frame.next++));
          continue;
        }
        stack.pop();
        open.delete(frame.id);
        if (!moved.has(frame.id)) moved.set(frame.id, copy(frame.id));
      }
    }
    return rebuilt(root);
  };

  for (const port of source.outputs)
    target.outputs.push({
      ...port,
      node: visit(port.node),
      ...(port.enable === undefined ? {} : { enable: visit(port.enable) }),
    });
  // A net marked to be kept is an output that no pin shows.
  for (const signal of source.signals) if (signal.keep) visit(signal.node);
  while (pendingRegisters.length > 0 || pendingMemories.length > 0) {
    for (let register = pendingRegisters.pop(); register; register = pendingRegisters.pop()) {
      const { reset, load } = register;
      target.registers.push({
        ...register,
        node: entry(moved, register.node),
        clock: visit(register.clock),
        d: visit(register.d),
        reset: reset === null ? null : visit(reset),
        load: load === null ? null : visit(load),
      });
    }
    for (let index = pendingMemories.pop(); index !== undefined; index = pendingMemories.pop()) {
      const memory = item(target.memories, entry(memoryIndex, index));
      for (const write of item(source.memories, index).writes)
        memory.writes.push({
          ...write,
          clock: visit(write.clock),
          enable: visit(write.enable),
          address: visit(write.address),
          data: visit(write.data),
        });
    }
  }
  for (const signal of source.signals) {
    const live = bases([signal.node]);
    if (live.length > 0 && live.every((base) => moved.has(base))) {
      const at = rebuilt(signal.node);
      target.signals.push({ ...signal, node: at });
      moved.set(signal.node, at);
    }
  }
  if (exact) return { netlist: target, moved, loops };
  const slim = narrow(target);
  return {
    netlist: slim.netlist,
    moved: new Map([...moved].map(([from, to]) => [from, item(slim.moved, to)])),
    loops,
  };
}

/** Names of declared signals that carry the given nodes, once each. */
function namesAround(source: Netlist, ids: readonly NodeId[]): string[] {
  const carried = new Set(ids);
  const names = source.signals
    .filter((signal) => carried.has(item(source.nodes, signal.node).args[0] ?? signal.node))
    .map((signal) => signal.name);
  return [...new Set(names)];
}
