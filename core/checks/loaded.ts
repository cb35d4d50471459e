import { item } from '../lists.ts';
import type { Netlist, NodeId, Register } from '../netlist/index.ts';

/** Behind enables and synchronous resets: what is loaded, and the conditions under which it is. */
export function loaded(netlist: Netlist, to: Register): { inner: NodeId; controls: NodeId[] } {
  const controls: NodeId[] = [];
  let inner = to.d;
  for (;;) {
    const { op, args } = item(netlist.nodes, inner);
    if (op !== 'mux') return { inner, controls };
    const [condition, then, otherwise] = args as [NodeId, NodeId, NodeId];
    const idle = (id: NodeId) => id === to.node || item(netlist.nodes, id).op === 'const';
    if (!idle(then) && !idle(otherwise)) return { inner, controls };
    controls.push(condition);
    inner = idle(then) ? otherwise : then;
  }
}
