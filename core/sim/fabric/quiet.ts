import { item } from '../../lists.ts';
import type { Netlist, NetNode, NodeId } from '../../netlist/index.ts';
import { limbsOf } from './layout.ts';

/**
 * Registers whose next values follow from the same few words: while none of these has changed, neither do they, and
 * nothing of them is computed. `leaves` are registers and inputs, `memories` what is looked up on the way.
 */
export interface Quiet {
  readonly key: string;
  readonly leaves: readonly NodeId[];
  readonly memories: readonly number[];
}

/** Nodes looked at for one register. */
const MOST_NODES = 3000;
/** Work that is worth a look at what it depends on: in all, and for each word that is looked at. */
const WORTH = { all: 24, each: 5 } as const;

/** What a register depends on within one clock; null where that is too much to be looked at. */
interface Cone {
  readonly leaves: ReadonlySet<NodeId>;
  readonly memories: ReadonlySet<number>;
  readonly nodes: ReadonlySet<NodeId>;
}

function coneOf(netlist: Netlist, root: NodeId): Cone | null {
  const leaves = new Set<NodeId>();
  const memories = new Set<number>();
  const nodes = new Set<NodeId>();
  const open = [root];
  for (let id = open.pop(); id !== undefined; id = open.pop()) {
    if (nodes.has(id) || leaves.has(id)) continue;
    const node = item(netlist.nodes, id);
    if (node.op === 'reg' || node.op === 'input') {
      leaves.add(id);
      continue;
    }
    nodes.add(id);
    if (nodes.size > MOST_NODES) return null;
    if (node.op === 'memread') memories.add(node.memory);
    open.push(...node.args);
  }
  return { leaves, memories, nodes };
}

/** Instructions that a node takes, roughly. */
function workOf(node: NetNode): number {
  const limbs = limbsOf(node.width);
  switch (node.op) {
    case 'const':
      return 0;
    case 'mul':
      return limbs * limbs * 2;
    case 'divu':
    case 'modu':
    case 'divs':
    case 'mods':
      return 12;
    case 'shl':
    case 'shr':
    case 'sra':
      return 5 * limbs;
    case 'concat':
      return 2 * node.args.length;
    case 'memread':
      return 3 * limbs;
    default:
      return 2 * limbs;
  }
}

/**
 * Groups of registers that are worth a look at what they depend on, by the place of each register in the list. What
 * depends on itself, as a counter does, would be looked at in vain.
 */
export function quietGroups(
  netlist: Netlist,
  registers: readonly { readonly node: NodeId; readonly value: NodeId }[],
  isWatched: (memory: number) => boolean,
): ReadonlyMap<number, Quiet> {
  const groups = new Map<string, { cones: Cone[]; members: number[] }>();
  for (const [place, { value }] of registers.entries()) {
    const cone = coneOf(netlist, value);
    if (cone === null || cone.leaves.size === 0 || ![...cone.memories].every(isWatched)) continue;
    const key = [...cone.leaves].sort((a, b) => a - b).join(' ');
    const group = groups.get(key) ?? { cones: [], members: [] };
    group.cones.push(cone);
    group.members.push(place);
    groups.set(key, group);
  }
  const found = new Map<number, Quiet>();
  for (const [key, { cones, members }] of groups) {
    const leaves = [...item(cones, 0).leaves];
    if (members.some((place) => item(cones, 0).leaves.has(item(registers, place).node))) continue;
    const memories = [...new Set(cones.flatMap((cone) => [...cone.memories]))];
    const nodes = new Set(cones.flatMap((cone) => [...cone.nodes]));
    const work = [...nodes].reduce((sum, id) => sum + workOf(item(netlist.nodes, id)), 0);
    const looked =
      leaves.reduce((sum, id) => sum + limbsOf(item(netlist.nodes, id).width), 0) + Math.min(1, memories.length);
    if (work < WORTH.all || work < WORTH.each * looked) continue;
    // A register is in one group only: its number tells groups of other clocks apart.
    const name = `${key}: ${members.map((place) => item(registers, place).node).join(' ')}`;
    for (const place of members) found.set(place, { key: name, leaves, memories });
  }
  return found;
}
