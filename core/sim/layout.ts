import type { Netlist, NetNode, NodeId } from '../netlist/index.ts';

/** 32-bit words a value of that width takes. */
export const limbsOf = (width: number): number => (width + 31) >>> 5;

/** Where everything that lasts from one step to the next is kept, in 32-bit words, low word first. */
export interface Layout {
  readonly registers: ReadonlyMap<NodeId, number>;
  readonly inputs: ReadonlyMap<string, { readonly address: number; readonly width: number }>;
  readonly inputNodes: ReadonlyMap<NodeId, number>;
  readonly outputs: ReadonlyMap<string, { readonly address: number; readonly width: number }>;
  readonly memories: readonly number[];
  readonly words: number;
}

export function layOut(netlist: Netlist): Layout {
  let words = 0;
  const take = (width: number, count = 1): number => {
    const at = words;
    words += limbsOf(width) * count;
    return at;
  };
  const registers = new Map(netlist.registers.map(({ node }) => [node, take((netlist.nodes[node] as NetNode).width)]));
  const inputs = new Map(netlist.inputs.map(({ name, width }) => [name, { address: take(width), width }]));
  const inputNodes = new Map(netlist.inputs.map(({ name, node }) => [node, inputs.get(name)?.address ?? 0]));
  const outputs = new Map(netlist.outputs.map(({ name, width }) => [name, { address: take(width), width }]));
  const memories = netlist.memories.map(({ width, depth }) => take(width, depth));
  return { registers, inputs, inputNodes, outputs, memories, words };
}
