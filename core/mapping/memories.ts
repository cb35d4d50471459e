import { item } from '../lists.ts';
import type { MemoryCells } from '../families/index.ts';
import { type Memory, type NodeId, takenBy } from '../netlist/index.ts';
import type { BitDesign, MemoryPort } from './blast.ts';
import { isInverted, type Literal, nodeOf, TRUE } from './gates/index.ts';
import type { TableNet } from './tables/index.ts';

/** What a memory is made of. */
export interface MemoryUse {
  readonly name: string;
  readonly kind: 'block' | 'tables' | 'registers';
  readonly blockRams: number;
  readonly luts: number;
  readonly registers: number;
  /** Why it is not in block RAM though it is large enough; null where it is, or is too small. */
  readonly reason: string | null;
}

interface MappedMemories {
  readonly design: BitDesign;
  readonly logic: TableNet;
  readonly memoryCells: MemoryCells;
}

/** Chooses block RAM, tables or registers for every memory. */
export function placeMemories({ design, logic, memoryCells }: MappedMemories): MemoryUse[] {
  const laneReads = readsForLanes(design);
  const registered = new Set(design.flipFlops.flatMap(({ q }) => q.map(nodeOf)));
  return design.source.memories.map((memory, index) => {
    const ports = design.memoryPorts.filter((port) => port.memory === index && !laneReads.has(port.node));
    const seen = once(() => lookedAt(index, design, logic));
    // The address comes from registers, or the word goes into registers and nowhere else.
    return placed(
      memory,
      ports,
      memoryCells,
      ({ address, data }) =>
        address.every((bit) => bit <= TRUE || registered.has(nodeOf(bit))) ||
        !data.some((bit) => seen().has(nodeOf(bit))),
    );
  });
}

/** Reads whose value only goes back into the same memory: they keep the lanes of a word that a write leaves alone. */
function readsForLanes({ source }: BitDesign): ReadonlySet<NodeId> {
  const lanes = new Set<NodeId>();
  for (const [index, memory] of source.memories.entries()) {
    const isRead = (id: NodeId): boolean => {
      const node = item(source.nodes, id);
      return node.op === 'memread' && node.memory === index;
    };
    const own = new Set(memory.writes.map((write) => write.data));
    const goingBack = [...behind(source, [...own])].filter(isRead);
    if (goingBack.length === 0) continue;
    // The data of its own writes does not count.
    const writes = source.memories.map((one) => ({
      ...one,
      writes: one.writes.map((write) => (own.has(write.data) ? { ...write, data: write.address } : write)),
    }));
    const seen = behind(source, takenBy({ ...source, memories: writes }));
    for (const id of goingBack) if (!seen.has(id)) lanes.add(id);
  }
  return lanes;
}

/** What the given words are computed from, themselves among it. */
function behind({ nodes }: BitDesign['source'], from: readonly NodeId[]): ReadonlySet<NodeId> {
  const seen = new Set<NodeId>();
  const open = [...from];
  for (let id = open.pop(); id !== undefined; id = open.pop()) {
    if (seen.has(id)) continue;
    seen.add(id);
    open.push(...item(nodes, id).args);
  }
  return seen;
}

function placed(
  memory: Memory,
  ports: readonly MemoryPort[],
  cells: MemoryCells,
  isClocked: (port: MemoryPort) => boolean,
): MemoryUse {
  const bits = memory.width * memory.depth;
  const reads = ports.filter((port) => port.kind === 'read');
  const addresses = new Set(ports.filter((port) => port.kind === 'write').map((port) => port.address.join(','))).size;
  const nothing = { name: memory.name, blockRams: 0, luts: 0, registers: 0 };
  if (reads.length === 0) return { ...nothing, kind: 'tables', reason: null };
  const copies = addresses === 0 ? Math.ceil(reads.length / 2) : reads.length;
  const late = reads.find((port) => !isClocked(port));
  if (addresses > 2)
    return {
      ...nothing,
      kind: 'registers',
      registers: bits,
      luts: reads.length * memory.width * Math.max(0, memory.depth - 1),
      reason: `It is written at ${addresses} places in one clock edge; a block RAM has two ports.`,
    };
  if (bits >= cells.leastBlockBits && !late) {
    const blocks = Math.min(
      ...cells.shapes.map(([words, width]) => Math.ceil(memory.depth / words) * Math.ceil(memory.width / width)),
    );
    return { ...nothing, kind: 'block', blockRams: blocks * copies, reason: null };
  }
  const rows = Math.ceil(memory.depth / cells.tableWords);
  const tables = rows * memory.width * Math.max(1, reads.length) + Math.max(0, rows - 1) * memory.width * reads.length;
  return {
    ...nothing,
    kind: 'tables',
    luts: tables,
    reason:
      bits >= cells.leastBlockBits
        ? 'It is read without a clock; block RAM gives its word a clock edge after the address. Put a register ' +
          'behind the read, or before the address.'
        : null,
  };
}

/** A value that is computed when it is first asked for. */
function once<T>(compute: () => T): () => T {
  let kept: { readonly value: T } | null = null;
  return () => {
    kept ??= { value: compute() };
    return kept.value;
  };
}

/**
 * What is looked at within the cycle in which a memory is read: by outputs, by logic in front of registers, by other
 * memories. A word that a register takes as it is does not count, nor does one that goes back into the same memory:
 * it keeps the lanes of a word that a write leaves alone.
 */
function lookedAt(
  memory: number,
  { flipFlops, outputs, memoryPorts }: BitDesign,
  logic: TableNet,
): ReadonlySet<number> {
  const words = new Set(memoryPorts.flatMap((port) => (port.kind === 'read' ? port.data.map(nodeOf) : [])));
  const some = (literal: Literal | null): Literal[] => (literal === null ? [] : [literal]);
  return logic.behind(
    [
      ...outputs.flatMap(({ bits }) => bits),
      ...flipFlops.flatMap((ff) => [
        ...ff.data.filter((bit) => !words.has(nodeOf(bit)) || isInverted(bit)),
        ...some(ff.syncReset),
        ...some(ff.enable),
        ...some(ff.asyncReset),
        ...(ff.asyncLoad ?? []),
      ]),
      ...memoryPorts.flatMap((port) =>
        port.kind === 'read'
          ? port.address
          : [...port.address, port.enable, ...(port.memory === memory ? [] : port.data)],
      ),
    ].map(nodeOf),
  );
}
