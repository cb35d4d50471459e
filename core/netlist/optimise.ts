import { item } from '../lists.ts';
import { byBits } from './by-bits.ts';
import { narrow } from './narrow.ts';
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
  let known = once(source, options).loops.length > 0 ? byBits(source) : source;
  for (let round = 0; ; round++) {
    const done = once(known, options);
    const stuck = round === MOST_ROUNDS ? [] : stuckRegisters(known, done);
    if (stuck.length === 0) return done;
    known = withConstants(known, stuck);
  }
}

/** A register found constant may make others so. */
const MOST_ROUNDS = 8;

/** Registers that begin with a value and are only ever given the same one again. */
function stuckRegisters(source: Netlist, { netlist, moved }: Optimised): Register[] {
  const stuck = new Set(
    netlist.registers
      .filter(
        ({ node, d, init, reset, resetValue, load }) =>
          load === null &&
          (reset === null || resetValue === init) &&
          (d === node || (netlist.nodes[d]?.op === 'const' && netlist.nodes[d]?.value === init)),
      )
      .map(({ node }) => node),
  );
  return stuck.size === 0 ? [] : source.registers.filter(({ node }) => stuck.has(moved.get(node) ?? -1));
}

function withConstants(source: Netlist, stuck: readonly Register[]): Netlist {
  const nodes = [...source.nodes];
  for (const { node, init } of stuck)
    nodes[node] = { op: 'const', width: item(source.nodes, node).width, args: [], value: init };
  const gone = new Set(stuck);
  return { ...source, nodes, registers: source.registers.filter((register) => !gone.has(register)) };
}

function once(source: Netlist, options: RebuildOptions): Optimised {
  const { target, moved, loops } = new Rebuild(source, options).done();
  const slim = narrow(target);
  return {
    netlist: slim.netlist,
    moved: new Map([...moved].map(([from, to]) => [from, item(slim.moved, to)] as const).filter(([, to]) => to >= 0)),
    loops,
  };
}
