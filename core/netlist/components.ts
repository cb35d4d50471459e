import { item } from '../lists.ts';
import type { Netlist, NodeId } from './types.ts';

/**
 * Words that decide one another without a register between: the strongly connected parts of the graph of arguments,
 * each with more than one word or with a word that is its own argument. Tarjan, "Depth-first search and linear graph
 * algorithms", SIAM J. Comput. 1 (1972), with a stack of its own.
 */
export function roundsIn({ nodes }: Netlist): NodeId[][] {
  const order = new Int32Array(nodes.length).fill(-1);
  const low = new Int32Array(nodes.length);
  const isOpen = new Uint8Array(nodes.length);
  const open: NodeId[] = [];
  const found: NodeId[][] = [];
  let count = 0;
  for (let root = 0; root < nodes.length; root++) {
    if (order[root] !== -1) continue;
    const stack: { readonly id: NodeId; next: number }[] = [];
    const enter = (id: NodeId) => {
      order[id] = low[id] = count++;
      isOpen[id] = 1;
      open.push(id);
      stack.push({ id, next: 0 });
    };
    enter(root);
    for (let frame = stack.at(-1); frame; frame = stack.at(-1)) {
      const { id } = frame;
      const { args } = item(nodes, id);
      const arg = args[frame.next++];
      if (arg !== undefined) {
        if (order[arg] === -1) enter(arg);
        else if (isOpen[arg] === 1) low[id] = Math.min(item(low, id), item(order, arg));
        continue;
      }
      stack.pop();
      const above = stack.at(-1);
      if (above) low[above.id] = Math.min(item(low, above.id), item(low, id));
      if (low[id] !== order[id]) continue;
      const round = open.splice(open.lastIndexOf(id));
      for (const one of round) isOpen[one] = 0;
      if (round.length > 1 || args.some((one) => one === id)) found.push(round);
    }
  }
  return found;
}
