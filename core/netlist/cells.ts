import type { Netlist, NetNode, NodeId } from './types.ts';

/** What a netlist takes up. `luts` is an estimate from operator widths; registers and memories are exact. */
export interface CellCounts {
  readonly luts: number;
  readonly registers: number;
  readonly blockRams: number;
  readonly ioPins: number;
}

export const BLOCK_RAM_BITS = 4096;
/** A memory smaller than this is cheaper in LUTs. */
const LEAST_BLOCK_BITS = 256;
/** Share of a LUT that one gate takes when logic is packed. */
const GATE = 0.4;

export function countCells(netlist: Netlist): CellCounts {
  const free = controlMuxes(netlist);
  let shares = 0;
  for (const [id, node] of netlist.nodes.entries()) if (!free.has(id)) shares += lutsOf(netlist, node);
  let luts = Math.ceil(shares);
  let blockRams = 0;
  for (const memory of netlist.memories) {
    const bits = memory.width * memory.depth;
    if (memory.writes.length === 0) luts += Math.ceil((memory.width * Math.max(0, memory.depth - 1)) / 16);
    else if (bits < LEAST_BLOCK_BITS) luts += Math.ceil(bits / 8);
    else blockRams += Math.ceil(bits / BLOCK_RAM_BITS);
  }
  const registers = netlist.registers.reduce((sum, { node }) => sum + (netlist.nodes[node] as NetNode).width, 0);
  const isPin = ({ name }: { name: string }) => !name.startsWith('$');
  const ioPins = [...netlist.inputs, ...netlist.outputs].filter(isPin).reduce((sum, port) => sum + port.width, 0);
  return { luts, registers, blockRams, ioPins };
}

/** Choices between a new value and the old one, or a constant, at a register's input: its enable and reset pins do that. */
function controlMuxes(netlist: Netlist): Set<NodeId> {
  const free = new Set<NodeId>();
  for (const register of netlist.registers) {
    let at: NodeId = register.d;
    for (;;) {
      const { op, args } = netlist.nodes[at] as NetNode;
      if (op !== 'mux') break;
      const [, then, otherwise] = args as [NodeId, NodeId, NodeId];
      const stays = (id: NodeId) => id === register.node || (netlist.nodes[id] as NetNode).op === 'const';
      if (!stays(then) && !stays(otherwise)) break;
      free.add(at);
      at = stays(then) ? otherwise : then;
    }
  }
  return free;
}

/**
 * Four-input LUTs of one operation: a LUT takes two to three gates of bitwise logic, a two-way choice takes one a bit, additions and
 * comparisons one a bit or two on the carry chain, a variable shift one a bit and stage.
 */
function lutsOf(netlist: Netlist, { op, width, args }: NetNode): number {
  const first = (netlist.nodes[args[0] ?? -1] as NetNode | undefined)?.width ?? 0;
  const constantArgument = args.some((id) => (netlist.nodes[id] as NetNode).op === 'const');
  switch (op) {
    case 'const': case 'input': case 'reg': case 'memread': case 'wire': case 'concat': case 'slice': case 'sext': case 'not': case 'truth':
      return 0;
    case 'and': case 'or': case 'xor': return constantArgument ? 0 : width * GATE;
    case 'redand': case 'redor': case 'redxor': return (first - 1) / 3;
    case 'eq': case 'caseeq': case 'casezeq': case 'casexeq': return constantArgument ? (first - 1) / 3 : first / 2 + first / 6;
    case 'ltu': case 'lts': return first / 2;
    case 'add': case 'sub': return width;
    case 'mul': return width * Math.ceil(first / 2);
    case 'divu': case 'modu': case 'divs': case 'mods': return width * first;
    case 'shl': case 'shr': case 'sra': case 'shrx': return constantArgument ? 0 : width * Math.ceil(Math.log2(Math.max(2, width)));
    case 'mux': return constantArgument ? width * GATE : width;
  }
}
