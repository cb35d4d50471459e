// States written in the way that takes fewest tables.
import {
  apart,
  type Encoding,
  inBits,
  type Netlist,
  optimise,
  recoded,
  type StateMachine,
  stateMachines,
} from '../netlist/index.ts';

/** What a netlist takes: tables, and the sum of the longest ways of its pieces. */
interface Cost {
  readonly tables: number;
  readonly ways: number;
}

/** A state machine whose states are written in another way than in the source. */
export interface RewrittenStates {
  /** Its register, as the source has it. */
  readonly name: string;
  readonly file: string;
  readonly line: number;
  readonly states: number;
  /** Bits in the source, and as it is mapped. */
  readonly bits: number;
  readonly mappedBits: number;
}

/** State machines of one design that are looked at, the first ones. */
const MOST_MACHINES = 24;

/**
 * The same netlist with each state machine's states written as it takes fewest tables, or as many and shorter ways; each
 * is tried by itself, apart from the rest.
 */
export function withBestStates(
  netlist: Netlist,
  costOf: (netlist: Netlist) => Cost,
): { readonly netlist: Netlist; readonly machines: readonly RewrittenStates[] } {
  const rewritten: RewrittenStates[] = [];
  // A number as wide as a machine word is no state yet, and in bits some numbers are none any more.
  const found = (one: Netlist) => ({ source: one, machines: stateMachines(one) });
  const [asItIs, narrow] = [found(netlist), found(inBits(netlist))];
  const { source, machines } = narrow.machines.length > asItIs.machines.length ? narrow : asItIs;
  let current = source;
  let moved = (node: number): number | undefined => node;
  for (const { machine, ways } of machines.slice(0, MOST_MACHINES)) {
    const way = best(source, machine, ways, costOf);
    if (way === null) continue;
    const node = moved(machine.register.node);
    const register = current.registers.find((one) => one.node === node);
    const done = register && recoded(current, { ...machine, register }, way);
    if (!done) continue;
    const { file = '', line = 0 } = source.origins[machine.register.node] ?? {};
    rewritten.push({
      ...{ name: nameIn(source, machine), file, line, states: machine.states.length, bits: machine.width },
      mappedBits: way === 'one-hot' ? machine.states.length : Math.ceil(Math.log2(machine.states.length)),
    });
    const before = moved;
    moved = (id) => {
      const at = before(id);
      return at === undefined ? undefined : done.moved.get(at);
    };
    current = done.netlist;
  }
  return { netlist: current === source ? netlist : current, machines: rewritten };
}

const nameIn = ({ signals, origins }: Netlist, { register }: StateMachine): string =>
  signals.find(({ node, kind }) => node === register.node && kind === 'reg')?.name ??
  signals.find(({ node }) => node === register.node)?.name ??
  `a register in ${origins[register.node]?.path ?? 'the design'}`;

/** Null where the states are best left as they are. */
function best(
  netlist: Netlist,
  machine: StateMachine,
  ways: readonly Encoding[],
  costOf: (netlist: Netlist) => Cost,
): Encoding | null {
  const part = apart(netlist, machine);
  let found: Encoding | null = null;
  let least = costOf(optimise(part).netlist);
  for (const way of ways) {
    const done = recoded(part, machine, way);
    if (done === null) continue;
    const cost = costOf(done.netlist);
    if (cost.tables > least.tables || (cost.tables === least.tables && cost.ways >= least.ways)) continue;
    least = cost;
    found = way;
  }
  return found;
}
