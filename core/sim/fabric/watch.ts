import { item } from '../../lists.ts';
import type { Netlist, NodeId, Register } from '../../netlist/index.ts';
import { coneOf, emitCone, emitResets } from './cones.ts';
import type { Emitter } from './emitter.ts';
import type { Layout } from './layout.ts';

/**
 * What follows each edge where logic makes clocks: it stops at the edge that moved one, so that all others cost next to
 * nothing. Null where that cannot be: a derived clock that is a function of a clock's own level, as a gated one is, or
 * a reset that another reset decides.
 */
export function watchOf(
  netlist: Netlist,
  layout: Layout,
  clocks: ReadonlySet<string>,
  resets: ReadonlyMap<NodeId, readonly Register[]>,
): ((e: Emitter) => void) | null {
  if (layout.derived.size === 0) return null;
  const isClock = (id: NodeId) => {
    const node = item(netlist.nodes, id);
    return node.op === 'input' && clocks.has(node.name);
  };
  if (coneOf(netlist, [...layout.derived.keys()]).some(isClock)) return null;
  const cleared = new Set([...resets.values()].flat().map(({ node }) => node));
  const conesOf = ([reset, registers]: [NodeId, readonly Register[]]) =>
    coneOf(netlist, [reset, ...registers.flatMap(({ load }) => (load === null ? [] : [load]))]);
  const cones = new Map([...resets].map((group) => [group[0], conesOf(group)]));
  if ([...cones.values()].some((cone) => cone.some((id) => cleared.has(id) || isClock(id)))) return null;
  // What comes in from outside is looked at when it is set.
  const inner = [...resets].filter(([reset]) =>
    cones.get(reset)?.some((id) => ['reg', 'memread'].includes(item(netlist.nodes, id).op)),
  );
  return (e) => {
    emitResets(netlist, layout, e, new Map(inner));
    const { get } = emitCone(netlist, layout, e, [...layout.derived.keys()]);
    const moved = [...layout.derived].map(([node, address]) => e.binary('xor', item(get(node), 0), e.load(address)));
    e.stopIf(
      moved.reduce((x, y) => e.binary('or', x, y)),
      layout.left,
    );
  };
}
