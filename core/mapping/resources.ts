import { item } from '../lists.ts';
import { isInnerPort, type NodeId } from '../netlist/index.ts';
import type { Mapped } from './map.ts';
import { type MemoryUse, placeMemories } from './memories.ts';
import { nodeOf, TRUE } from './gates/index.ts';
import { NODE } from './tables/index.ts';

/** Lines that are listed. */
const MOST_LINES = 200;

/** What logic takes up. `cells` are pairs of a table and a flip-flop, where either may be unused. */
export interface Resources {
  readonly luts: number;
  readonly registers: number;
  readonly cells: number;
  /** Tables that carry chains take; part of `luts`. */
  readonly carryBits: number;
  /** Tables used as memory; part of `luts`. */
  readonly memoryLuts: number;
  readonly blockRams: number;
  readonly ioPins: number;
  /** Tables on the longest way between registers. */
  readonly depth: number;
}

/** What one instance takes itself, without those inside it. */
export interface InstanceUse {
  readonly path: string;
  readonly luts: number;
  readonly registers: number;
  readonly blockRams: number;
}

/** What one line of the sources takes, over all instances of it. */
export interface LineUse {
  readonly file: string;
  readonly line: number;
  readonly luts: number;
  readonly registers: number;
}

interface Usage {
  readonly total: Resources;
  readonly instances: readonly InstanceUse[];
  /** The lines that take most, most first. */
  readonly lines: readonly LineUse[];
  readonly memories: readonly MemoryUse[];
}

/** Counts a mapped design, in all and by instance. Names beginning with $ are no pins. */
export function countResources(mapped: Mapped): Usage {
  const { design, logic, fanout } = mapped;
  const { source, flipFlops } = design;
  const memories = placeMemories(mapped);
  const byPath = new Map<string, { luts: number; registers: number; blockRams: number }>();
  const at = (path: string) => {
    let entry = byPath.get(path);
    if (!entry) {
      entry = { luts: 0, registers: 0, blockRams: 0 };
      byPath.set(path, entry);
    }
    return entry;
  };
  const pathOf = (word: NodeId): string => source.origins[word]?.path ?? '';
  const byLine = new Map<string, { file: string; line: number; luts: number; registers: number }>();
  /** Counts what a word takes, for its instance and for its line. */
  const count = (word: NodeId, kind: 'luts' | 'registers', many: number) => {
    at(pathOf(word))[kind] += many;
    const { file, line } = source.origins[word] ?? { file: '', line: 0 };
    if (file === '') return;
    const known = byLine.get(`${file}:${line}`) ?? { file, line, luts: 0, registers: 0 };
    known[kind] += many;
    byLine.set(`${file}:${line}`, known);
  };
  let tables = 0;
  for (const [node, kind] of logic.kind.entries()) {
    if (kind !== NODE.table) continue;
    tables++;
    count(item(logic.madeFor, node), 'luts', 1);
  }
  let carryBits = 0;
  for (const { cells, sums, out } of logic.chains) {
    carryBits += cells.length;
    const output = sums.find((sum) => sum >= 0) ?? out;
    count(item(logic.madeFor, output), 'luts', cells.length);
  }
  let registers = 0;
  let paired = 0;
  for (const { register, q, data } of flipFlops) {
    registers += q.length;
    count(register.node, 'registers', q.length);
    for (const bit of data)
      if (bit > TRUE && logic.kind[nodeOf(bit)] !== NODE.leaf && item(fanout, nodeOf(bit)) === 1) paired++;
  }
  for (const memory of memories) {
    const entry = at(memory.name.slice(0, Math.max(0, memory.name.lastIndexOf('.'))));
    entry.luts += memory.luts;
    entry.registers += memory.registers;
    entry.blockRams += memory.blockRams;
  }
  const sum = (of: (use: MemoryUse) => number) => memories.reduce((total, memory) => total + of(memory), 0);
  const memoryLuts = sum((memory) => memory.luts);
  const allLuts = tables + carryBits + memoryLuts;
  const allRegisters = registers + sum((memory) => memory.registers);
  const pins = new Map(
    [...source.inputs, ...source.outputs].filter((port) => !isInnerPort(port)).map((port) => [port.name, port.width]),
  );
  const total: Resources = {
    luts: allLuts,
    registers: allRegisters,
    cells: allLuts + allRegisters - paired,
    carryBits,
    memoryLuts,
    blockRams: sum((memory) => memory.blockRams),
    ioPins: [...pins.values()].reduce((a, b) => a + b, 0),
    depth: mapped.depth,
  };
  return {
    total,
    instances: [...byPath].map(([path, use]) => ({ path, ...use })).sort((a, b) => (a.path < b.path ? -1 : 1)),
    lines: [...byLine.values()]
      .sort((a, b) => b.luts - a.luts || b.registers - a.registers || (a.file < b.file ? -1 : 1))
      .slice(0, MOST_LINES),
    memories,
  };
}
