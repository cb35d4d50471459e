import { item, numberAt, wordAt } from '../../lists.ts';
import type { TableGraph } from './graph.ts';
import { inputValues, tableValues, type Values, wordsFor } from './words.ts';

/** Inputs of a window; all their values are looked at. */
const MOST_INPUTS = 9;
/** Tables that are looked at inside and beside the way to the inputs. */
const MOST_INSIDE = 40;
const MOST_BESIDE = 24;
/** What is taken in very many places is no help in finding what stands beside. */
const MOST_USERS = 24;
/** Users of a table through which is seen whether its value matters. */
const MOST_LOOKED_THROUGH = 3;

/** Leaves that cannot have every value together: the values they can have, bit 0 the first; -1 for what is not here. */
export interface KnownBits {
  readonly nodes: readonly number[];
  readonly values: readonly number[];
}

/** What a table computes from the inputs of a window around it, and what else is there. */
export interface Window {
  readonly words: number;
  readonly values: ReadonlyMap<number, Values>;
  /** Where the value of the table can be seen at all. */
  readonly care: Values;
  /** Nodes that do not depend on the table, the table's inputs first. */
  readonly beside: readonly number[];
}

/**
 * A window around a table: backwards along ways that meet again, and sideways what can be computed from the same
 * inputs.
 *
 * @source windows of reconvergent paths with don't-cares of what is seen, as in the literature on resynthesis of mapped
 * networks (common practice)
 */
export function windowAround(
  graph: TableGraph,
  node: number,
  factsOf: ReadonlyMap<number, readonly KnownBits[]>,
): Window {
  const { inputs, inside } = backwards(graph, node);
  const beside = sideways(graph, node, inputs, inside);
  const known = new Set([...inputs, ...inside, ...beside]);
  const seen = lookThrough(graph, node, known, inputs);
  const words = wordsFor(inputs.length);
  const values = new Map<number, Values>(inputs.map((input, i) => [input, inputValues(i, inputs.length)]));
  const valuesOf = (at: number): Values => {
    const have = values.get(at);
    if (have) return have;
    const made = tableValues(numberAt(graph.net.truth, at), graph.inputs(at).map(valuesOf), words);
    values.set(at, made);
    return made;
  };
  for (const at of [...inside, ...beside, node]) valuesOf(at);
  const care = new Uint32Array(words).fill(seen === null ? 0xffffffff : 0);
  for (const user of seen ?? []) {
    const sides = [0, 0xffffffff].map((value) =>
      tableValues(
        numberAt(graph.net.truth, user),
        graph.inputs(user).map((input) => (input === node ? new Uint32Array(words).fill(value) : valuesOf(input))),
        words,
      ),
    );
    for (let i = 0; i < words; i++) care[i] = wordAt(care, i) | (wordAt(item(sides, 0), i) ^ wordAt(item(sides, 1), i));
  }
  for (const fact of new Set(inputs.flatMap((input) => factsOf.get(input) ?? []))) restrict(care, fact, values);
  const own = graph.inputs(node);
  return {
    words,
    values,
    care,
    beside: [...own, ...[...inputs, ...inside, ...beside].filter((at) => at !== node && !own.includes(at))],
  };
}

/** Takes out of what matters what cannot be. */
function restrict(care: Values, { nodes, values }: KnownBits, known: ReadonlyMap<number, Values>): void {
  const here = nodes.flatMap((node, bit) => {
    const of = known.get(node);
    return of ? [{ of, bit }] : [];
  });
  if (here.length < 2) return;
  const rows = new Set(values.map((value) => here.reduce((row, { bit }, i) => row | (((value >> bit) & 1) << i), 0)));
  if (rows.size === 1 << here.length) return;
  for (let i = 0; i < care.length; i++) {
    let any = 0;
    for (const row of rows) {
      let all = 0xffffffff;
      for (const [k, { of }] of here.entries()) all &= (row >> k) & 1 ? wordAt(of, i) : ~wordAt(of, i);
      any |= all;
    }
    care[i] = wordAt(care, i) & any;
  }
}

/** From a table towards the leaves, always where fewest inputs are added. */
function backwards(graph: TableGraph, node: number): { inputs: number[]; inside: number[] } {
  const inputs = new Set(graph.inputs(node));
  const inside = new Set<number>();
  while (inside.size < MOST_INSIDE) {
    let [best, least] = [-1, Number.POSITIVE_INFINITY];
    for (const input of inputs) {
      if (!graph.isTable(input)) continue;
      let more = -1;
      for (const source of graph.inputs(input)) if (!inputs.has(source) && !inside.has(source)) more++;
      if (inputs.size + more > MOST_INPUTS) continue;
      const cost = more - (graph.uses(input) === 1 ? 0.5 : 0);
      if (cost < least) [best, least] = [input, cost];
    }
    if (best < 0) break;
    inputs.delete(best);
    inside.add(best);
    for (const source of graph.inputs(best)) if (!inside.has(source)) inputs.add(source);
  }
  return { inputs: [...inputs], inside: [...inside] };
}

function sideways(
  graph: TableGraph,
  node: number,
  inputs: readonly number[],
  inside: readonly number[],
): readonly number[] {
  const known = new Set([...inputs, ...inside]);
  const beside: number[] = [];
  const open = [...inputs, ...inside];
  for (const at of open) {
    const users = item(graph.users, at);
    if (users.length > MOST_USERS) continue;
    for (const user of users) {
      if (user < 0 || user === node || known.has(user) || beside.length >= MOST_BESIDE) continue;
      if (!graph.inputs(user).every((input) => known.has(input))) continue;
      known.add(user);
      beside.push(user);
      open.push(user);
    }
  }
  return beside;
}

/**
 * The tables through which alone a table is seen, all of whose other inputs are known in the window, or become inputs
 * of it; null where it is seen otherwise.
 */
function lookThrough(graph: TableGraph, node: number, known: Set<number>, inputs: number[]): readonly number[] | null {
  const users = item(graph.users, node);
  if (numberAt(graph.rootUses, node) > 0 || users.length > MOST_LOOKED_THROUGH || users.some((user) => user < 0))
    return null;
  const others = new Set(
    users.flatMap((user) => graph.inputs(user)).filter((input) => input !== node && !known.has(input)),
  );
  if (inputs.length + others.size > MOST_INPUTS) return null;
  // What comes no later than the table itself cannot depend on it.
  for (const other of others) if (numberAt(graph.arrival, other) > numberAt(graph.arrival, node)) return null;
  for (const other of others) {
    inputs.push(other);
    known.add(other);
  }
  return users;
}
