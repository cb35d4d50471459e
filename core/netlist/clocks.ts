import { item } from '../lists.ts';
import { cellPort, clockNameOf, type Netlist, type NodeId } from './types.ts';

/**
 * For each node of an optimised netlist: the clock inputs whose registers it depends on, by name. A node that depends
 * on inputs and constants alone has none.
 */
export function clocksOf(netlist: Netlist): (id: NodeId) => ReadonlySet<string> {
  const none: ReadonlySet<string> = new Set();
  const clockName = (id: NodeId) => clockNameOf(item(netlist.nodes, id)) ?? 'derived';
  const found: ReadonlySet<string>[] = [];
  const registers = new Map(netlist.registers.map((r) => [r.node, clockName(r.clock)]));
  for (const [id, node] of netlist.nodes.entries()) {
    if (node.op === 'reg') found[id] = new Set([registers.get(id) ?? 'derived']);
    else if (node.op === 'memread')
      found[id] = new Set([
        ...(found[item(node.args, 0)] ?? none),
        ...(netlist.memories[node.memory ?? 0]?.writes ?? []).map((w) => clockName(w.clock)),
      ]);
    else {
      const inner = node.args.map((arg) => found[arg] ?? none).filter((set) => set.size > 0);
      found[id] =
        inner.length === 0
          ? none
          : inner.every((set) => set === inner[0])
            ? (inner[0] as ReadonlySet<string>)
            : new Set(inner.flatMap((set) => [...set]));
    }
  }
  return (id) => found[id] ?? none;
}

/** Clocks that cells of the part make, each with the clock it is made from: they keep step with it. */
export function madeClocks({ cells, inputs, outputs }: Netlist): ReadonlyMap<NodeId, NodeId> {
  const made = new Map<NodeId, NodeId>();
  for (const { path } of cells) {
    const ofCell = ({ name }: { readonly name: string }) => name.startsWith(cellPort(path, ''));
    const taken = outputs.find(ofCell)?.node;
    if (taken === undefined) continue;
    for (const { node } of inputs.filter(ofCell)) made.set(node, taken);
  }
  return made;
}
