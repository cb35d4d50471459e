import { item } from '../lists.ts';
import type { Netlist, NodeId } from './types.ts';

/** Nodes that hardware takes: pins, what registers and memories are written with. One that is taken twice is there twice. */
export function takenBy({ outputs, registers, memories }: Netlist): NodeId[] {
  const some = (...ids: (NodeId | null | undefined)[]): NodeId[] =>
    ids.filter((id): id is NodeId => id !== null && id !== undefined);
  return [
    ...outputs.flatMap(({ node, enable }) => some(node, enable)),
    ...registers.flatMap(({ clock, d, reset, load }) => some(clock, d, reset, load)),
    ...memories.flatMap(({ writes }) =>
      writes.flatMap(({ clock, enable, address, data }) => [clock, enable, address, data]),
    ),
  ];
}

/** How often each node is taken by what is there in hardware: what has a name only is not. */
export function usesIn(source: Netlist): number[] {
  const { nodes } = source;
  const uses = nodes.map(() => 0);
  const use = (id: NodeId) => {
    uses[id] = item(uses, id) + 1;
  };
  for (const id of takenBy(source)) use(id);
  for (const [id, { op }] of nodes.entries()) if (op === 'memread') use(id);
  for (let id = nodes.length - 1; id >= 0; id--)
    if (item(uses, id) > 0) for (const arg of item(nodes, id).args) use(arg);
  return uses;
}
