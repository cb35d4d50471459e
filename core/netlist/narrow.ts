import { item } from '../lists.ts';
import { NetBuilder } from './builder.ts';
import { emptyNetlist, type Netlist, type NetNode, type NodeId, type Op } from './types.ts';

/** Operations whose low bits depend on no higher bits of their arguments. */
const LOW_FIRST: ReadonlySet<Op> = new Set<Op>(['add', 'sub', 'mul', 'and', 'or', 'xor', 'not', 'mux']);

/**
 * Makes words no wider than anybody looks at: a counter written as `q + 1` is computed in 32 bits by the language and
 * cut to its width, so the upper ones need not be there. Takes and gives an optimised netlist, and where each node
 * went.
 */
export function narrow(source: Netlist): { readonly netlist: Netlist; readonly moved: readonly NodeId[] } {
  const seen = bitsSeen(source);
  const target: Netlist = { ...emptyNetlist(), memories: source.memories.map((memory) => ({ ...memory, writes: [] })) };
  const build = new NetBuilder(target);
  const moved: NodeId[] = [];
  for (const [id, node] of source.nodes.entries()) {
    build.origin = source.origins[id];
    moved[id] = copied(source, node, Math.max(1, Math.min(node.width, item(seen, id))), moved, build);
  }
  const at = (id: NodeId): NodeId => item(moved, id);
  const whole = (id: NodeId): NodeId => build.resize(at(id), item(source.nodes, id).width, false);
  for (const port of source.outputs)
    target.outputs.push({
      ...port,
      node: whole(port.node),
      ...(port.enable === undefined ? {} : { enable: whole(port.enable) }),
    });
  for (const r of source.registers)
    target.registers.push({
      ...r,
      node: at(r.node),
      clock: at(r.clock),
      d: whole(r.d),
      reset: r.reset === null ? null : at(r.reset),
      load: r.load === null ? null : whole(r.load),
    });
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
  return { netlist: target, moved };
}

/** How many of each node's bits, from the lowest, somebody needs. */
function bitsSeen(source: Netlist): number[] {
  const seen = source.nodes.map(() => 0);
  const ask = (id: NodeId, bits: number) => {
    if (item(seen, id) < bits) seen[id] = bits;
  };
  const all = (id: NodeId) => ask(id, item(source.nodes, id).width);
  for (const { node, enable } of source.outputs)
    for (const id of enable === undefined ? [node] : [node, enable]) all(id);
  for (const { node, clock, d, reset, load } of source.registers)
    for (const id of [node, clock, d, reset, load]) if (id !== null) all(id);
  for (const { writes } of source.memories)
    for (const { clock, enable, address, data } of writes) for (const id of [clock, enable, address, data]) all(id);
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

function copied(source: Netlist, node: NetNode, width: number, moved: readonly NodeId[], build: NetBuilder): NodeId {
  const arg = (i: number, bits?: number): NodeId => {
    const from = item<NodeId>(node.args, i);
    return build.resize(item(moved, from), bits ?? item(source.nodes, from).width, false);
  };
  switch (node.op) {
    case 'const':
      return build.constant(node.value, node.width);
    case 'input':
      return build.input(node.name, node.width);
    case 'reg':
      return build.register(node.width);
    case 'memread':
      return build.memoryRead(node.memory, node.width, arg(0));
    case 'slice':
      return build.slice(arg(0), node.lo, width);
    case 'concat':
      return build.slice(build.concat(node.args.map((_, i) => arg(i))), 0, width);
    case 'not':
      return build.not(arg(0, width));
    case 'and':
      return build.and(arg(0, width), arg(1, width));
    case 'or':
      return build.or(arg(0, width), arg(1, width));
    case 'xor':
      return build.xor(arg(0, width), arg(1, width));
    case 'add':
      return build.add(arg(0, width), arg(1, width));
    case 'sub':
      return build.sub(arg(0, width), arg(1, width));
    case 'mul':
      return build.make('mul', width, [arg(0, width), arg(1, width)]);
    case 'mux':
      return build.mux(arg(0), arg(1, width), arg(2, width));
    case 'eq':
      return build.eq(arg(0), arg(1));
    case 'redand':
    case 'redor':
    case 'redxor':
      return build.reduce(node.op, arg(0));
    case 'wire':
      throw new RangeError('wires are gone once a netlist is optimised');
    default:
      return build.make(
        node.op,
        node.width,
        node.args.map((_, i) => arg(i)),
      );
  }
}
