// A clock held still: its registers and memories take part in an edge only while they are let.
import { item } from '../lists.ts';
import { NetBuilder, type Netlist, type NodeId } from '../netlist/index.ts';

/** How many registers and memories, from the first on, are the design's own. */
interface Own {
  readonly registers: number;
  readonly memories: number;
}

/** Bits that let rising edges through, and falling ones. */
interface Let {
  readonly go: NodeId;
  readonly goLate: NodeId;
}

/** What gives a clock its level, through names alone. */
export function rootOf({ nodes }: Netlist, clock: NodeId): NodeId {
  for (let id = clock; ; ) {
    const node = item(nodes, id);
    if (node.op !== 'wire' || node.args[0] === undefined) return id;
    [id] = node.args;
  }
}

/**
 * Lets the design's registers and memories on a clock, and on both of its edges, through by `go`: in place, before
 * anything is optimised. What an asynchronous reset does to them it goes on doing.
 */
export function holdClock(netlist: Netlist, own: Own, clock: NodeId, { go, goLate }: Let): void {
  const build = new NetBuilder(netlist);
  const root = rootOf(netlist, clock);
  const letOf = (edge: 'posedge' | 'negedge') => (edge === 'posedge' ? go : goLate);
  for (let i = 0; i < own.registers; i++) {
    const register = item(netlist.registers, i);
    if (rootOf(netlist, register.clock) !== root) continue;
    netlist.registers[i] = { ...register, d: build.mux(letOf(register.edge), register.d, register.node) };
  }
  for (let i = 0; i < own.memories; i++) {
    const memory = item(netlist.memories, i);
    if (!memory.writes.some((write) => rootOf(netlist, write.clock) === root)) continue;
    netlist.memories[i] = {
      ...memory,
      writes: memory.writes.map((write) =>
        rootOf(netlist, write.clock) === root
          ? { ...write, enable: build.and(write.enable, letOf(write.edge)) }
          : write,
      ),
    };
  }
}

/** What stands while a clock is held, and what goes on. */
export interface Standstill {
  readonly registers: number;
  readonly memories: number;
  /** Registers and memories of other clocks, by the clock's name; null where logic without a name makes it. */
  readonly others: readonly { readonly clock: string | null; readonly count: number }[];
  /** Held registers that an asynchronous reset clears all the same. */
  readonly resets: number;
}

/** Of a design without debug cores; null where it has no such clock. */
export function standstillOf(netlist: Netlist, clock: string): Standstill | null {
  const names = new Map<NodeId, string>();
  for (const { name, node } of netlist.signals) {
    const root = rootOf(netlist, node);
    // The shortest name is the one nearest to the top.
    if ((names.get(root)?.length ?? Number.POSITIVE_INFINITY) > name.length) names.set(root, name);
  }
  const signal = netlist.signals.find(({ name }) => name === clock);
  if (!signal) return null;
  const root = rootOf(netlist, signal.node);
  const others = new Map<NodeId, number>();
  let [registers, memories, resets] = [0, 0, 0];
  for (const register of netlist.registers) {
    const own = rootOf(netlist, register.clock);
    if (own !== root) others.set(own, (others.get(own) ?? 0) + 1);
    else {
      registers++;
      if (register.reset !== null) resets++;
    }
  }
  for (const { writes } of netlist.memories) {
    const clocks = new Set(writes.map((write) => rootOf(netlist, write.clock)));
    if (clocks.has(root)) memories++;
    for (const other of clocks) if (other !== root) others.set(other, (others.get(other) ?? 0) + 1);
  }
  return {
    ...{ registers, memories, resets },
    others: [...others].map(([other, count]) => ({ clock: names.get(other) ?? null, count })),
  };
}
