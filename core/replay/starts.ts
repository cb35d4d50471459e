// The beginning of a record in several goes: what is known of the start makes the next go smaller.
import { item } from '../lists.ts';
import type { Netlist } from '../netlist/index.ts';
import { type Beginning, type Budget, exactBeginning, neededFor, type Outside, type PartlyKnown } from './exact.ts';
import type { ReplayProgram } from './program.ts';

/** A netlist with the outputs that are wanted, what comes in at each moment, and what it may take. */
interface Asked {
  readonly netlist: Netlist;
  /** Sets of outputs, the largest first. */
  readonly outputs: readonly ReadonlySet<string>[];
  /** Anew for each go: it is asked for one moment after another. */
  readonly outside: () => (moment: number) => Outside | null;
  readonly budget: Budget;
  /** Outputs that something is said of at one later moment alone, with that moment. */
  readonly read: ReadonlyMap<string, number>;
}

/** Goes at most, and what share of the unknown bits each has to have told for another one to be worth it. */
const MOST_GOES = 4;
const LEAST_TOLD = 0.25;

/** A beginning, and of which outputs. */
interface Begun {
  readonly exact: Beginning;
  readonly outputs: ReadonlySet<string>;
}

/**
 * The beginning, as far as it can be computed. First each output that is read by itself, narrowest first, tells of its
 * own registers. Where functions grow too large before everything is known, it is begun again with the bits of
 * registers that are known by then, then with fewer outputs.
 */
export function beginningInGoes(asked: Asked): Begun | null {
  const { netlist, budget } = asked;
  let starts = apart(
    asked,
    netlist.registers.map(({ node }) => open(item(netlist.nodes, node).width)),
  );
  let best: Begun | null = null;
  for (const outputs of asked.outputs) {
    const made = goes({ ...asked, outputs, budget: { ...budget, work: budget.work / asked.outputs.length } }, starts);
    if (made.exact && (best === null || made.exact.count > best.exact.count)) best = { exact: made.exact, outputs };
    if (made.exact?.isCutShort === false) break;
    starts = made.starts;
  }
  return best;
}

interface Go extends Omit<Asked, 'outputs'> {
  readonly outputs: ReadonlySet<string>;
}

/** One set of outputs, again for as long as that tells much more of the start. */
function goes(
  { netlist, outputs, outside, budget }: Go,
  known: readonly PartlyKnown[],
): { readonly exact: Beginning | null; readonly starts: readonly PartlyKnown[] } {
  const needed = neededFor(
    netlist,
    netlist.outputs.filter(({ name }) => outputs.has(name)),
  );
  const isNeeded = netlist.registers.map(({ node }) => needed.has(node));
  const unknownBits = (all: readonly PartlyKnown[]) =>
    all.reduce((sum, { unknown }, i) => sum + (isNeeded[i] ? ones(unknown) : 0), 0);
  let [starts, left] = [known, budget.work];
  let best: Beginning | null = null;
  for (let go = 0; go < MOST_GOES && left > 0; go++) {
    const made = exactBeginning(netlist, outputs, outside(), { ...budget, work: left, starts });
    if (!made) break;
    left -= made.work;
    if (best === null || made.count >= best.count) best = made;
    const told = joined(starts, made.first);
    const [before, now] = [unknownBits(starts), unknownBits(told)];
    starts = told;
    if (!made.isCutShort || before - now < Math.max(1, LEAST_TOLD * before)) break;
  }
  return { exact: best, starts };
}

/** What outputs that are read tell of the start, one after another, those first that follow from least. */
function apart({ netlist, outside, budget, read }: Asked, known: readonly PartlyKnown[]): readonly PartlyKnown[] {
  const places = new Map(netlist.registers.map(({ node }, i) => [node, i]));
  const registersOf = (name: string): number[] => {
    const port = netlist.outputs.find((one) => one.name === name);
    if (!port) return [];
    const { nodes } = neededFor(netlist, [port]);
    return nodes.flatMap((node) => places.get(node) ?? []);
  };
  const cones = [...read].map(([name, moment]) => ({ name, moment, registers: registersOf(name) }));
  const openBits = (registers: readonly number[]): number =>
    registers.reduce((sum, i) => sum + ones(item(known, i).unknown), 0);
  cones.sort((a, b) => openBits(a.registers) - openBits(b.registers));
  let starts = known;
  for (const { name, moment } of cones) {
    const limits = { ...budget, moments: moment + 1, work: budget.work / cones.length, starts, goesOn: true };
    const made = exactBeginning(netlist, new Set([name]), outside(), limits);
    if (made && made.count > moment) starts = joined(starts, made.first);
  }
  return starts;
}

const open = (width: number): PartlyKnown => ({ value: 0n, unknown: (1n << BigInt(width)) - 1n });

const joined = (a: readonly PartlyKnown[], b: readonly PartlyKnown[]): PartlyKnown[] =>
  a.map(({ value, unknown }, i) => {
    const other = item(b, i);
    return { value: value | other.value, unknown: unknown & other.unknown };
  });

function ones(word: bigint): number {
  let count = 0;
  for (let rest = word; rest > 0n; rest &= rest - 1n) count++;
  return count;
}

/**
 * Signals that are to be seen, and what records say of registers and memories that those depend on: all of that, and
 * what of it depends on nothing else.
 */
export function exactOutputs({ netlist, shown, own, writes }: ReplayProgram): readonly ReadonlySet<string>[] {
  const wanted = new Set([
    ...shown.flatMap(({ output, isWanted }) => (isWanted ? [output] : [])),
    ...writes.flatMap(({ enable, address }) => [enable, address]),
  ]);
  const cone = neededFor(
    netlist,
    netlist.outputs.filter(({ name }) => wanted.has(name)),
  );
  const [all, narrow] = [new Set(wanted), new Set(wanted)];
  for (const name of own) {
    const port = name === null ? undefined : netlist.outputs.find((one) => one.name === name);
    if (!port || name === null) continue;
    const its = neededFor(netlist, [port]);
    const registers = its.nodes.filter((node) => netlist.nodes[node]?.op === 'reg');
    const shared = registers.filter(cone.has).length + [...its.memories].filter((one) => cone.memories.has(one)).length;
    if (shared > 0 || its.memories.size > 0) all.add(name);
    if (shared > 0 && shared === registers.length + its.memories.size) narrow.add(name);
  }
  return narrow.size < all.size ? [all, narrow] : [all];
}

/** Whether something that is not always known decides an output. */
export function hasOpenInputs(netlist: Netlist, known: ReadonlySet<string>): boolean {
  const needed = neededFor(netlist, netlist.outputs);
  return netlist.inputs.some(({ name, node }) => needed.has(node) && !known.has(name));
}
