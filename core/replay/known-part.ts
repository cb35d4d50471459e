// Of a program at a moment: the part that is known from there on, whatever comes, and the rest of it.
import { intAt, item } from '../lists.ts';
import type { Netlist, NetNode, NodeId } from '../netlist/index.ts';
import type { Simulator } from '../sim/fabric/index.ts';
import type { Dual } from './dual.ts';
import { neededFor } from './exact.ts';

/** A simulator of three values as it stands. */
export interface Standing {
  readonly dual: Dual;
  readonly sim: Simulator;
}

/** A netlist of some of the outputs of another one, nodes and memories by the same numbers. */
export interface Part {
  readonly netlist: Netlist;
  /** Places of its registers among those of the whole. */
  readonly registers: readonly number[];
  readonly needs: (node: NodeId) => boolean;
}

/** Those outputs alone, with what they depend on. */
export function partFor(netlist: Netlist, isMeant: (output: Netlist['outputs'][number]) => boolean): Part {
  const outputs = netlist.outputs.filter(isMeant);
  const needed = neededFor(netlist, outputs);
  const registers = netlist.registers.flatMap(({ node }, i) => (needed.has(node) ? [i] : []));
  const nodes = netlist.nodes.map(
    (node, id): NetNode =>
      needed.has(id) || node.op === 'input' ? node : { op: 'const', width: node.width, args: [], value: 0n },
  );
  const memories = netlist.memories.map((memory, i) => (needed.memories.has(i) ? memory : { ...memory, writes: [] }));
  return {
    netlist: { ...netlist, nodes, outputs, memories, registers: registers.map((i) => item(netlist.registers, i)) },
    registers,
    needs: needed.has,
  };
}

/**
 * For each node 1 where it is unknown now or may be at some time from now on, as a simulator of three values stands;
 * without one, as if all registers and memories were known. `isOpen`: inputs that are not always known.
 */
export function lostNodes(netlist: Netlist, at: Standing | null, isOpen: (input: string) => boolean): Uint8Array {
  const { nodes, registers, memories } = netlist;
  const lost = new Uint8Array(nodes.length);
  const lostMemories = memories.map((_, i) => at !== null && isMemoryOpen(netlist, at, i));
  for (const { name, node } of netlist.inputs) if (isOpen(name)) lost[node] = 1;
  for (const [i, { node }] of registers.entries()) if (at !== null && isRegisterOpen(at, i)) lost[node] = 1;
  for (let isMoved = true; isMoved; ) {
    isMoved = false;
    for (const [id, { op, args, ...node }] of nodes.entries()) {
      if (lost[id] === 1) continue;
      const isLost = args.some((arg) => lost[arg] === 1) || ('memory' in node && lostMemories[node.memory] === true);
      if (isLost && op !== 'reg') lost[id] = 1;
    }
    for (const { node, d } of registers)
      if (lost[node] === 0 && lost[d] === 1) {
        lost[node] = 1;
        isMoved = true;
      }
    for (const [i, { writes }] of memories.entries())
      if (!lostMemories[i] && writes.some((w) => lost[w.enable] === 1 || lost[w.address] === 1 || lost[w.data] === 1)) {
        lostMemories[i] = true;
        isMoved = true;
      }
  }
  return lost;
}

function isRegisterOpen({ dual, sim }: Standing, register: number): boolean {
  const { unknown, width } = item(dual.registers, register);
  return isAnySet(sim.words, sim.registerAddress(item(dual.netlist.registers, unknown).node), (width + 31) >>> 5);
}

function isMemoryOpen({ memories }: Netlist, { dual, sim }: Standing, memory: number): boolean {
  const { writes, depth, width } = item(memories, memory);
  if (writes.length === 0) return false;
  const { unknown, marks, now } = item(dual.memories, memory);
  const mark = now < 0 ? 0 : intAt(sim.words, sim.registerAddress(item(dual.netlist.registers, now).node));
  const at = sim.memoryAddress(marks);
  for (let word = 0; word < depth; word++) if (sim.words[at + word] !== mark) return true;
  return isAnySet(sim.words, sim.memoryAddress(unknown), depth * ((width + 31) >>> 5));
}

function isAnySet(words: Int32Array, from: number, count: number): boolean {
  for (let k = from; k < from + count; k++) if (words[k] !== 0) return true;
  return false;
}
