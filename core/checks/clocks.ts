import type { Messages } from '../hdl/index.ts';
import { item } from '../lists.ts';
import { isInnerPort, type Netlist, type NodeId } from '../netlist/index.ts';
import type { NetNames } from './names.ts';

/** Clocks that are more than a port: made by logic, gated, or read as data. */
export function checkClocks(netlist: Netlist, names: NetNames, messages: Messages): void {
  const users = new Map<NodeId, string[]>();
  for (const { clock, node } of netlist.registers) users.set(clock, [...(users.get(clock) ?? []), names.of(node)]);
  for (const { name, writes } of netlist.memories)
    for (const { clock } of writes) users.set(clock, [...(users.get(clock) ?? []), name]);
  for (const [clock, registers] of users) {
    if (item(netlist.nodes, clock).op !== 'input') reportDerived(netlist, names, messages, clock, registers);
    else reportData(netlist, names, messages, clock, users);
  }
}

function reportDerived(
  netlist: Netlist,
  names: NetNames,
  messages: Messages,
  clock: NodeId,
  registers: readonly string[],
): void {
  const gates = portsBehind(netlist, clock);
  const what = `${registers.length === 1 ? 'register' : 'registers'} (${some(registers)})`;
  const { op } = item(netlist.nodes, clock);
  if (gates.length > 0 && op !== 'reg')
    messages.add(
      'serious',
      'gated-clock',
      names.place(clock),
      `"${names.of(clock)}" is the clock "${gates.join('", "')}" put through logic; it clocks ` +
        `${registers.length} ${what}. A gate that moves while the clock is high makes a short extra edge.`,
    );
  else
    messages.add(
      'warning',
      'derived-clock',
      names.place(clock),
      `"${names.of(clock)}" is made by logic and clocks ${registers.length} ${what}.`,
    );
}

/** Clock ports whose level goes into a derived clock without a register between. */
function portsBehind(netlist: Netlist, clock: NodeId): string[] {
  const clocks = new Set(netlist.registers.map((register) => register.clock));
  const found = new Set<string>();
  const seen = new Set<NodeId>();
  const open = [clock];
  for (let id = open.pop(); id !== undefined; id = open.pop()) {
    if (seen.has(id)) continue;
    seen.add(id);
    const node = item(netlist.nodes, id);
    if (node.op === 'input' && clocks.has(id)) found.add(node.name);
    open.push(...node.args);
  }
  return [...found];
}

function reportData(
  netlist: Netlist,
  names: NetNames,
  messages: Messages,
  clock: NodeId,
  clocks: ReadonlyMap<NodeId, unknown>,
): void {
  const readers = netlist.nodes.flatMap((node, id) =>
    readsWord(node, clock) && !reachesOnlyClocks(netlist, id, clocks) ? [id] : [],
  );
  const outputs = netlist.outputs.filter((port) => port.node === clock && !isInnerPort(port)).map((port) => port.name);
  const registers = netlist.registers
    .filter((register) => register.d === clock)
    .map((register) => names.of(register.node));
  const where = [
    ...readers.map((id) => `${netlist.origins[id]?.file ?? ''}, line ${netlist.origins[id]?.line ?? '?'}`),
    ...outputs.map((name) => `output "${name}"`),
    ...registers.map((name) => `register "${name}"`),
  ];
  if (where.length > 0)
    messages.add(
      'warning',
      'clock-as-data',
      names.place(clock),
      `The clock "${names.of(clock)}" is also read as a value: ${some(where)}. It changes just when registers look.`,
    );
}

const readsWord = ({ args }: { readonly args: readonly NodeId[] }, id: NodeId): boolean => args.includes(id);

function reachesOnlyClocks(netlist: Netlist, id: NodeId, clocks: ReadonlyMap<NodeId, unknown>): boolean {
  if (clocks.has(id)) return true;
  const users = netlist.nodes.flatMap((node, at) => (readsWord(node, id) ? [at] : []));
  const asData =
    netlist.outputs.some((port) => port.node === id) || netlist.registers.some((r) => r.d === id || r.reset === id);
  return !asData && users.length > 0 && users.every((user) => reachesOnlyClocks(netlist, user, clocks));
}

export const some = (list: readonly string[]): string =>
  list.length > 4 ? `${list.slice(0, 3).join(', ')} and ${list.length - 3} more` : list.join(', ');
