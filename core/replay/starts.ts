// The beginning of a record in several goes: what is known of the start makes the next go smaller.
import { item } from '../lists.ts';
import type { Netlist } from '../netlist/index.ts';
import { type Beginning, type Budget, exactBeginning, neededFor, type Outside, type PartlyKnown } from './exact.ts';

/** A netlist with the outputs that are wanted, what comes in at each moment, and what it may take. */
interface Asked {
  readonly netlist: Netlist;
  readonly outputs: ReadonlySet<string>;
  /** Anew for each go: it is asked for one moment after another. */
  readonly outside: () => (moment: number) => Outside | null;
  readonly budget: Budget;
  /** Outputs that something is said of at one later moment alone, with that moment. */
  readonly read: ReadonlyMap<string, number>;
}

/** Goes at most, and what share of the unknown bits each has to have told for another one to be worth it. */
const MOST_GOES = 4;
const LEAST_TOLD = 0.25;

/**
 * The beginning, as far as it can be computed. Where functions grow too large before everything is known, it is begun
 * again with the bits of registers that are known by then; and, where something is read later than that, with what each
 * output by itself, narrowest first, tells of its own registers.
 */
export function beginningInGoes(asked: Asked): Beginning | null {
  const { netlist, outputs, budget } = asked;
  let starts: readonly PartlyKnown[] = netlist.registers.map(({ node }) => open(item(netlist.nodes, node).width));
  let left = budget.work;
  let best: Beginning | null = null;
  for (let go = 0; go < MOST_GOES && left > 0; go++) {
    const made = exactBeginning(netlist, outputs, asked.outside(), { ...budget, work: left, starts });
    if (made) left -= made.work;
    if (made && (best === null || made.count >= best.count)) best = made;
    const isShort = made === null || made.isCutShort;
    if (!isShort) break;
    const told = made === null ? starts : joined(starts, made.first);
    const next = isMuchBetter(told, starts) ? told : apart(asked, told, made?.count ?? 0);
    if (!isMuchBetter(next, starts)) break;
    starts = next;
  }
  return best;
}

/** What outputs that are read later tell of the start, one after another, those first that follow from least. */
function apart({ netlist, outside, budget, read }: Asked, known: readonly PartlyKnown[], reached: number) {
  const places = new Map(netlist.registers.map(({ node }, i) => [node, i]));
  const registersOf = (name: string): number[] => {
    const port = netlist.outputs.find((one) => one.name === name);
    if (!port) return [];
    const { nodes } = neededFor(netlist, [port]);
    return nodes.flatMap((node) => places.get(node) ?? []);
  };
  const later = [...read].filter(([, moment]) => moment >= reached);
  const cones = later.map(([name, moment]) => ({ name, moment, registers: registersOf(name) }));
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

function isMuchBetter(a: readonly PartlyKnown[], b: readonly PartlyKnown[]): boolean {
  const [now, before] = [a, b].map((all) => all.reduce((sum, { unknown }) => sum + ones(unknown), 0));
  return before !== undefined && now !== undefined && before - now >= Math.max(1, LEAST_TOLD * before);
}

function ones(word: bigint): number {
  let count = 0;
  for (let rest = word; rest > 0n; rest &= rest - 1n) count++;
  return count;
}
