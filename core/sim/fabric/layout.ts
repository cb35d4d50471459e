import { item } from '../../lists.ts';
import type { Netlist, NodeId } from '../../netlist/index.ts';

/** 32-bit words a value of that width takes. */
export const limbsOf = (width: number): number => (width + 31) >>> 5;

/** Memories of which it is counted how often they are written, in words; larger ones are written all the time. */
const MOST_WATCHED = 256;
/** As often as a word may be remembered, on the average. */
const REMEMBERED_PER_WORD = 2;

/** Where everything that lasts from one step to the next is kept, in 32-bit words, low word first. */
export interface Layout {
  readonly registers: ReadonlyMap<NodeId, number>;
  readonly inputs: ReadonlyMap<string, { readonly address: number; readonly width: number }>;
  readonly inputNodes: ReadonlyMap<NodeId, number>;
  readonly outputs: ReadonlyMap<
    string,
    { readonly address: number; readonly width: number; readonly enable: number | null }
  >;
  readonly memories: readonly number[];
  /** A count of the writes of memories that are watched, one for all of the same clock; null for the others. */
  readonly written: readonly (number | null)[];
  /** Room for what groups of registers remember of the words they depend on. */
  readonly remembered: { readonly from: number; readonly words: number };
  /** Levels of clocks that logic makes. */
  readonly derived: ReadonlyMap<NodeId, number>;
  /** Whether a reset was on, or one of these had an edge, since this was last set to 0. */
  readonly disturbed: number;
  readonly words: number;
}

export function layOut(netlist: Netlist): Layout {
  let words = 0;
  const take = (width: number, count = 1): number => {
    const at = words;
    words += limbsOf(width) * count;
    return at;
  };
  const registers = new Map(netlist.registers.map(({ node }) => [node, take(item(netlist.nodes, node).width)]));
  const inputs = new Map(netlist.inputs.map(({ name, width }) => [name, { address: take(width), width }]));
  const inputNodes = new Map(netlist.inputs.map(({ name, node }) => [node, inputs.get(name)?.address ?? 0]));
  const outputs = new Map(
    netlist.outputs.map(({ name, width, enable }) => [
      name,
      { address: take(width), width, enable: enable === undefined ? null : take(width) },
    ]),
  );
  const memories = netlist.memories.map(({ width, depth }) => take(width, depth));
  const counts = new Map<string, number>();
  const written = netlist.memories.map(({ depth, writes }) => {
    if (depth > MOST_WATCHED || writes.length === 0) return null;
    const clocks = writes.map(({ clock, edge }) => `${clock} ${edge}`).join(', ');
    const place = counts.get(clocks) ?? take(1);
    counts.set(clocks, place);
    return place;
  });
  const most = [...netlist.registers, ...netlist.inputs].reduce(
    (sum, { node }) => sum + limbsOf(item(netlist.nodes, node).width),
    0,
  );
  const room = REMEMBERED_PER_WORD * most;
  const remembered = { from: take(32, room), words: room };
  const clocks = new Set(
    [...netlist.registers, ...netlist.memories.flatMap((memory) => memory.writes)].map(({ clock }) => clock),
  );
  const isPort = (id: NodeId) => item(netlist.nodes, id).op === 'input' && item(netlist.nodes, id).width === 1;
  const derived = new Map([...clocks].filter((id) => !isPort(id)).map((id) => [id, take(1)]));
  const disturbed = take(1);
  return { derived, disturbed, registers, inputs, inputNodes, outputs, memories, written, remembered, words };
}
