import { item } from '../lists.ts';
import { byBits } from './by-bits.ts';
import type { Known } from './known.ts';
import { narrow } from './narrow.ts';
import { registerRanges } from './ranges.ts';
import { type CombinationalLoop, Rebuild, type RebuildOptions } from './rebuild.ts';
import type { Netlist, NodeId, Register } from './types.ts';

export interface Optimised {
  /** What is left: only what an output can see, without wires, every argument before its user. */
  readonly netlist: Netlist;
  /** Old node to new node, for those that survived. */
  readonly moved: ReadonlyMap<NodeId, NodeId>;
  readonly loops: readonly CombinationalLoop[];
}

/**
 * Rebuilds a netlist from its outputs: named wires are seen through, constants travel, equal logic is shared and what
 * nobody sees is dropped. Slices are followed bit by bit through wires and concatenations, so that a vector whose bits
 * feed one another is no false loop. `writeOut` turns every division into subtractions, for mapping.
 */
export function optimise(source: Netlist, options: RebuildOptions = {}): Optimised {
  let known = source;
  let done = new Rebuild(source, options).done();
  if (done.loops.length > 0) {
    known = byBits(source);
    done = new Rebuild(known, options).done();
  }
  for (let round = 0; ; round++) {
    const ranges = registerRanges(done.target);
    const stuck = round === MOST_ROUNDS ? [] : stuckRegisters(known, done.moved, ranges);
    if (stuck.length === 0) return slimmed(done, ranges);
    known = withConstants(known, stuck);
    done = new Rebuild(known, options).done();
  }
}

/** Bits that a fabric of words computes at once: fewer of them save nothing there, and take work to be cut off. */
const MACHINE_WORD = 32;

/** A register found constant may make others so. */
const MOST_ROUNDS = 8;

interface Constant {
  readonly register: Register;
  readonly value: bigint;
}

/** Registers of a source that never leave one value. */
function stuckRegisters(
  { registers }: Netlist,
  moved: ReadonlyMap<NodeId, NodeId>,
  ranges: ReadonlyMap<NodeId, Known>,
): Constant[] {
  return registers.flatMap((register) => {
    const range = ranges.get(moved.get(register.node) ?? -1);
    return range && range.min === range.max ? [{ register, value: range.min }] : [];
  });
}

function withConstants(source: Netlist, stuck: readonly Constant[]): Netlist {
  const nodes = [...source.nodes];
  for (const { register, value } of stuck)
    nodes[register.node] = { op: 'const', width: item(source.nodes, register.node).width, args: [], value };
  const gone = new Set(stuck.map(({ register }) => register));
  return { ...source, nodes, registers: source.registers.filter((register) => !gone.has(register)) };
}

function slimmed({ target, moved, loops }: Rebuild, ranges: ReadonlyMap<NodeId, Known>): Optimised {
  const slim = narrow(target, { ranges, grain: MACHINE_WORD });
  return {
    netlist: slim.netlist,
    moved: new Map([...moved].map(([from, to]) => [from, item(slim.moved, to)] as const).filter(([, to]) => to >= 0)),
    loops,
  };
}
