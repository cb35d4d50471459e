import { item } from '../lists.ts';
import { clockNameOf, isInnerPort, type Netlist, type NodeId } from '../netlist/index.ts';
import { type Hold, holdsOf } from './holds.ts';
import { loaded } from './loaded.ts';
import { NetNames, piecesOf } from './names.ts';

/**
 * What gives a signal its value. `from` names the registers and pins that decide it, or that decide what a register
 * takes next; those of enables and synchronous resets come first, and there are at most `MOST_NAMED`. `file` and `line`
 * are the statement that makes the value, empty and 0 where there is none. `port` is that of the design, or of a cell
 * of the part, behind the instance. `holds` are values of those that by themselves keep it still; absent in builds from
 * before that was asked. `untold` is what is known of builds from before any of this was.
 */
export type Driver =
  | { readonly kind: 'pin' | 'cell'; readonly port: string }
  | {
      readonly kind: 'register' | 'logic' | 'memory';
      readonly from: readonly string[];
      readonly file: string;
      readonly line: number;
      readonly holds?: readonly Hold[];
    }
  | { readonly kind: 'constant'; readonly value: string }
  | { readonly kind: 'nothing' | 'untold' };

/** Begins the name of an input that stands for a wire nothing drives. */
export const FREE_PREFIX = '$free ';

const MOST_NAMED = 8;
/** Nodes that are looked at behind one signal; what lies deeper is not named. */
const MOST_NODES = 400;

/** Drivers of nodes of an optimised netlist. */
export function driversOf(netlist: Netlist): (id: NodeId) => Driver {
  const names = new NetNames(netlist);
  const registers = new Map(netlist.registers.map((register) => [register.node, register]));
  const known = new Map<NodeId, Driver>();
  const find = (id: NodeId): Driver => {
    const pieces = piecesOf(netlist, id);
    const [first] = pieces;
    const bases = [...new Set(pieces.map(({ node }) => node))];
    const node = item(netlist.nodes, first?.node ?? id);
    const origin = netlist.origins[first?.node ?? id];
    const at = { file: origin?.file ?? '', line: origin?.line ?? 0 };
    if (bases.length === 1) {
      if (node.op === 'input')
        return node.name.startsWith(FREE_PREFIX)
          ? { kind: 'nothing' }
          : { kind: isInnerPort(node) ? 'cell' : 'pin', port: clockNameOf(node) ?? '' };
      if (node.op === 'const' && node.width >= item(netlist.nodes, id).width)
        return { kind: 'constant', value: String(node.value ?? 0n) };
    }
    const ways = bases.flatMap((base): NodeId[] => {
      const register = registers.get(base);
      if (!register) return [base];
      return [...loaded(netlist, register).controls, register.d, ...(register.reset === null ? [] : [register.reset])];
    });
    const sources = sourcesOf(netlist, ways, new Set(bases.filter((base) => registers.has(base))));
    const from = sources.map((source) => names.of(source));
    const only = bases.length === 1 ? item(bases, 0) : null;
    const holds =
      only === null ? [] : holdsOf(netlist, only, registers.get(only) ?? null, sources, (source) => names.of(source));
    if (bases.every((base) => registers.has(base) || netlist.nodes[base]?.op === 'const'))
      return { kind: 'register', from, ...at, holds };
    return { kind: node.op === 'memread' && bases.length === 1 ? 'memory' : 'logic', from, ...at, holds };
  };
  return (id) => {
    let driver = known.get(id);
    if (!driver) known.set(id, (driver = find(id)));
    return driver;
  };
}

/** What a node is called where it is a whole register or pin under one or more names; null for anything else. */
export function netNamesOf(netlist: Netlist): (id: NodeId) => string | null {
  const names = new NetNames(netlist);
  return (id) => {
    const [only, more] = piecesOf(netlist, id);
    if (!only || more || only.lo !== 0) return null;
    const node = item(netlist.nodes, only.node);
    return (node.op === 'reg' || node.op === 'input') && node.width === only.width ? names.of(only.node) : null;
  };
}

/**
 * Registers and pins in front of some nodes without another register between, nearest first; `without` leaves out those
 * that are asked about.
 */
function sourcesOf(netlist: Netlist, ways: readonly NodeId[], without: ReadonlySet<NodeId>): NodeId[] {
  const found: NodeId[] = [];
  const seen = new Set<NodeId>();
  for (const way of ways) {
    const open = [way];
    for (let i = 0; i < open.length && found.length < MOST_NAMED && seen.size < MOST_NODES; i++) {
      const id = item(open, i);
      if (seen.has(id)) continue;
      seen.add(id);
      const { op, args } = item(netlist.nodes, id);
      if (op !== 'reg' && op !== 'input') open.push(...args);
      else if (!without.has(id)) found.push(id);
    }
  }
  return found;
}
