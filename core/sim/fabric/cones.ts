import { entry, item } from '../../lists.ts';
import type { Netlist, NodeId, Register } from '../../netlist/index.ts';
import { constant, type Emitter } from './emitter.ts';
import type { Layout } from './layout.ts';
import { type Limbs, Lowering } from './lower.ts';

/** Everything the roots depend on within one clock, arguments first. Node numbers are in that order already. */
export function coneOf(netlist: Netlist, roots: readonly NodeId[], known?: ReadonlyMap<NodeId, Limbs>): NodeId[] {
  const seen = new Set<NodeId>();
  const open = [...roots];
  for (let id = open.pop(); id !== undefined; id = open.pop()) {
    if (seen.has(id) || known?.has(id)) continue;
    seen.add(id);
    const { op, args } = item(netlist.nodes, id);
    if (op !== 'reg') open.push(...args);
  }
  return [...seen].sort((a, b) => a - b);
}

/** The code of everything the roots depend on; `get` then knows their values. */
export function emitCone(
  netlist: Netlist,
  layout: Layout,
  e: Emitter,
  roots: readonly NodeId[],
): { lowering: Lowering; get: (id: NodeId) => Limbs } {
  const lowering = new Lowering(netlist, layout, e);
  const values = new Map<NodeId, Limbs>();
  const get = (id: NodeId): Limbs => entry(values, id);
  for (const id of coneOf(netlist, roots)) values.set(id, lowering.node(id, get));
  return { lowering, get };
}

/** Registers by the signal that clears them. */
export function resetGroups(netlist: Netlist): Map<NodeId, Register[]> {
  const groups = new Map<NodeId, Register[]>();
  for (const register of netlist.registers)
    if (register.reset !== null) groups.set(register.reset, [...(groups.get(register.reset) ?? []), register]);
  return groups;
}

/** Clears the registers of those groups whose signal says so; where a word is given, it becomes 1 then. */
export function emitResets(
  netlist: Netlist,
  layout: Layout,
  e: Emitter,
  groups: ReadonlyMap<NodeId, readonly Register[]>,
  told: number | null = null,
): void {
  const loads = [...groups.values()].flat().flatMap(({ load }) => (load === null ? [] : [load]));
  const { lowering, get } = emitCone(netlist, layout, e, [...groups.keys(), ...loads]);
  for (const [reset, registers] of groups) {
    e.if(item(get(reset), 0));
    if (told !== null) e.store(told, constant(1));
    for (const { node, resetValue, load } of registers)
      lowering.storeWord(
        entry(layout.registers, node),
        load === null ? lowering.constantLimbs(resetValue, item(netlist.nodes, node).width) : get(load),
      );
    e.end();
  }
}
