// Which clocks have calm edges, what is to be computed at them, and where what belongs to them is kept.
import { item } from '../../lists.ts';
import type { Netlist, NodeId } from '../../netlist/index.ts';
import type { Stillness } from './activity.ts';
import { assume, type Calm, nodesOf, writesIn } from './assume.ts';
import type { Program } from './compile.ts';
import { limbsOf } from './layout.ts';
import { Leap } from './leap.ts';
import { argsOf } from './reader.ts';

/** Where more words move, they are as well off in memory, and their code takes long to be made. */
const MOST_LIMBS = 128;
const MOST_CLOCKS = 8;
/** Words in front of the copy of registers and inputs. */
const HEAD = 64;
/** Of these, three for each clock. */
const FIRST_STATE = 8;

/** Words that calm edges need beside the design's own. */
export const roomFor = ({ layout, netlist }: Program): number => HEAD + layout.words + netlist.nodes.length;

/** A clock with calm edges. */
export interface CalmClock {
  readonly domain: number;
  readonly calm: Calm;
  /** Whether calm edges may go on (1). */
  readonly state: number;
  /** Full edges in vain, and full edges that are not looked at. */
  readonly tries: number;
  readonly waits: number;
  /** Words that do not move, as they were at the last full edge. */
  readonly kept: ReadonlyMap<NodeId, number>;
  /** Conditions under which alone a mover takes another value. */
  readonly cases: ReadonlyMap<NodeId, Case>;
  /** Many edges at once; null where it can never be told that they are calm. */
  readonly leap: Leap | null;
}

/** Where alone a mover takes another value, and which. */
export interface Case {
  readonly condition: NodeId;
  readonly isIt: boolean;
  readonly value: NodeId;
}

export interface CalmPlan {
  readonly clocks: readonly CalmClock[];
  /** Whether anything was another word than in the copy, when it was looked at last. */
  readonly difference: number;
  readonly fullEdges: number;
  /** Whether the copy is one of what was there before the last edge. */
  readonly copied: number;
  /** The copy of registers and, behind them, inputs; they themselves lie from 0 on. */
  readonly copy: number;
  readonly registers: number;
  readonly registersAndInputs: number;
}

/** `from`: the first of the words that `roomFor` counts. Null where no clock has calm edges. */
export function planCalm(program: Program, stillness: Stillness, from: number): CalmPlan | null {
  const { layout, netlist, members } = program;
  const widthOf = (node: NodeId) => limbsOf(item(netlist.nodes, node).width);
  const registers = [...layout.registers].reduce((end, [node, at]) => Math.max(end, at + widthOf(node)), 0);
  const inputs = [...layout.inputs.values()];
  const end = inputs.reduce((most, { address, width }) => Math.max(most, address + limbsOf(width)), registers);
  const written = new Set(
    [...stillness.known].flatMap(([domain, knownOf]) =>
      writesIn(netlist, item(members, domain), knownOf).map(({ memory }) => memory),
    ),
  );
  const copy = from + HEAD;
  let next = copy + end;
  const take = (node: NodeId) => {
    const at = next;
    next += widthOf(node);
    return at;
  };
  const clocks: CalmClock[] = [];
  for (const [domain, knownOf] of stillness.known) {
    const derived = [...layout.derived.keys()];
    const { movers } = stillness;
    const calm = assume({ netlist, members: item(members, domain), movers, derived, written, knownOf });
    const moving = [...(calm?.movers.keys() ?? [])].reduce((sum, node) => sum + widthOf(node), 0);
    if (calm === null || moving > MOST_LIMBS || clocks.length === MOST_CLOCKS) continue;
    const state = from + FIRST_STATE + 3 * clocks.length;
    const cases = casesOf(netlist, calm);
    const leap = new Leap(netlist, calm, cases);
    clocks.push({
      ...{ domain, calm, cases, leap: leap.isPossible ? leap : null },
      kept: new Map([...keptOf(netlist, calm)].map((id) => [id, take(id)])),
      ...{ state, tries: state + 1, waits: state + 2 },
    });
  }
  if (clocks.length === 0 || next > from + roomFor(program)) return null;
  const [difference, fullEdges, copied] = [from, from + 1, from + 2];
  return { clocks, difference, fullEdges, copied, copy, registers, registersAndInputs: end };
}

/** Of all that is computed at calm edges what does not move, where it begins to. */
function keptOf(netlist: Netlist, calm: Calm): Set<NodeId> {
  const { facts, checked, movers, writes, moving } = calm;
  const seen = new Set<NodeId>();
  const kept = new Set<NodeId>();
  const open: NodeId[] = [...nodesOf(calm.rest), ...calm.levels, ...movers.values()];
  for (const { enable, address, data } of writes) open.push(enable, address, data);
  for (const id of checked) if (moving.has(id)) open.push(...argsOf(netlist, calm, id));
  for (let id = open.pop(); id !== undefined; id = open.pop()) {
    if (seen.has(id) || facts.has(id)) continue;
    seen.add(id);
    const { op } = item(netlist.nodes, id);
    if (moving.has(id)) open.push(...argsOf(netlist, calm, id));
    else if (op !== 'reg' && op !== 'input' && op !== 'const') kept.add(id);
  }
  return kept;
}

function casesOf(netlist: Netlist, calm: Calm): Map<NodeId, Case> {
  const cases = new Map<NodeId, Case>();
  for (const [register, d] of calm.movers) {
    const only = caseOf(netlist, calm, register, d);
    if (only !== null) cases.set(register, only);
  }
  return cases;
}

/** The condition under which alone a mover takes another value; null where there is none. */
function caseOf(netlist: Netlist, calm: Calm, register: NodeId, d: NodeId): Case | null {
  for (let id = d; ; ) {
    const node = item(netlist.nodes, id);
    if (node.op !== 'mux' || calm.facts.has(id)) return null;
    const [condition, then, otherwise] = node.args;
    const known = calm.facts.get(condition);
    if (known !== undefined) id = known === 0 ? otherwise : then;
    else if (otherwise === register) return { condition, value: then, isIt: true };
    else return then === register ? { condition, value: otherwise, isIt: false } : null;
  }
}

/** Whether what is done at a clock's calm edges has nothing to do with another one's. */
export function isApart({ leap, calm }: CalmClock, other: CalmClock): boolean {
  if (leap === null) return false;
  const written = new Set(other.calm.writes.map(({ memory }) => memory));
  return (
    ![...other.calm.movers.keys()].some((node) => leap.reads.has(node)) &&
    ![...leap.memories, ...calm.writes.map(({ memory }) => memory)].some((memory) => written.has(memory))
  );
}
