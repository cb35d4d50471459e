import { item } from '../lists.ts';
import { emptyNetlist, isLeaf, type Netlist, type NodeId, withArgs } from './types.ts';
import { takenBy } from './uses.ts';

const NOWHERE = -1;

/**
 * A netlist without the nodes that nothing needs. `before` says where nodes went that it was made of; those that are
 * left out went nowhere, -1.
 */
export function compacted(
  source: Netlist,
  before: readonly NodeId[],
): { readonly netlist: Netlist; readonly moved: readonly NodeId[] } {
  const live = liveNodes(source);
  if (live.every((is) => is)) return { netlist: source, moved: before };
  const target: Netlist = { ...emptyNetlist(), cells: source.cells, memories: source.memories };
  const number: NodeId[] = [];
  const at = (id: NodeId): NodeId => item(number, id);
  const maybe = (id: NodeId | null): NodeId | null => (id === null ? null : at(id));
  for (const [id, node] of source.nodes.entries()) {
    if (!live[id]) continue;
    number[id] =
      target.nodes.push(isLeaf(node) && node.op !== 'memread' ? node : withArgs(node, node.args.map(at))) - 1;
    target.origins.push(source.origins[id]);
  }
  const port = <P extends { readonly node: NodeId; readonly enable?: NodeId }>(of: P): P => ({
    ...of,
    node: at(of.node),
    ...(of.enable === undefined ? {} : { enable: at(of.enable) }),
  });
  target.inputs.push(...source.inputs.map(port));
  target.outputs.push(...source.outputs.map(port));
  target.signals.push(...source.signals.map((signal) => ({ ...signal, node: at(signal.node) })));
  for (const r of source.registers)
    target.registers.push({
      ...r,
      node: at(r.node),
      clock: at(r.clock),
      d: at(r.d),
      reset: maybe(r.reset),
      load: maybe(r.load),
    });
  for (const memory of target.memories)
    for (const [i, w] of memory.writes.entries())
      memory.writes[i] = {
        ...w,
        clock: at(w.clock),
        enable: at(w.enable),
        address: at(w.address),
        data: at(w.data),
      };
  return { netlist: target, moved: before.map((id) => number[id] ?? NOWHERE) };
}

/** What an output, a register, a memory or a declared name needs. */
function liveNodes(source: Netlist): boolean[] {
  const { nodes, inputs, registers, signals } = source;
  const live = nodes.map(() => false);
  const open = [...takenBy(source), ...[...inputs, ...registers, ...signals].map(({ node }) => node)];
  for (let id = open.pop(); id !== undefined; id = open.pop()) {
    if (live[id]) continue;
    live[id] = true;
    open.push(...item(nodes, id).args);
  }
  return live;
}
