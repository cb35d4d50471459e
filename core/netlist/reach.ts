import { item } from '../lists.ts';
import { evaluateConstant } from './fold.ts';
import { isLeaf, lowBitOf, type Netlist, type NodeId, type Register } from './types.ts';

/** Nodes one behind the other that are looked at. */
const DEEPEST = 400;
/** Registers whose single values are followed. */
const WIDEST_SET = 8;
const LARGEST_SET = 16;
/** Nodes evaluated for one register, over all of its values, and for a whole design. */
const MOST_EVALUATED = 20_000;
const MOST_IN_ALL = 400_000;

/**
 * All values that narrow registers can ever have, proven: what they begin with, and from each of them what can follow,
 * whatever all other words are. Only registers that cannot have every value are given.
 *
 * @source reachable states by explicit enumeration, one register at a time (common practice)
 */
export function reachableValues(source: Netlist): Map<NodeId, readonly number[]> {
  const found = new Map<NodeId, readonly number[]>();
  const budget = { left: MOST_IN_ALL };
  for (const register of source.registers) {
    const { width } = item(source.nodes, register.node);
    if (width < 2 || width > WIDEST_SET || register.load !== null) continue;
    const values = valuesOf(source, register, { most: (1 << width) - 1, budget });
    if (values !== null)
      found.set(
        register.node,
        [...values].map(Number).sort((x, y) => x - y),
      );
  }
  return found;
}

/** The few values that a register can ever have, proven in the same way; null where there are more than `most`. */
export function fewValues(source: Netlist, register: Register, most: number): ReadonlySet<bigint> | null {
  return register.load === null ? valuesOf(source, register, { most, budget: { left: MOST_IN_ALL } }) : null;
}

function valuesOf(
  source: Netlist,
  register: Register,
  { most, budget }: { readonly most: number; readonly budget: { left: number } },
): Set<bigint> | null {
  const found = new Set([register.init]);
  if (register.reset !== null) found.add(register.resetValue);
  let left = MOST_EVALUATED;
  for (const value of found) {
    const sets = new Sets(source, register.node, value);
    const next = sets.of(register.d);
    left -= sets.evaluated;
    budget.left -= sets.evaluated;
    if (next === null || left < 0 || budget.left < 0) return null;
    for (const one of next) found.add(one);
    if (found.size > most) return null;
  }
  return found;
}

const EITHER: readonly bigint[] = [0n, 1n];

/** The few values that a word can have while a register has one, or null where there are too many or it is unknown. */
class Sets {
  readonly #source: Netlist;
  readonly #known: Map<NodeId, readonly bigint[] | null>;
  evaluated = 0;

  constructor(source: Netlist, register: NodeId, value: bigint) {
    this.#source = source;
    this.#known = new Map([[register, [value]]]);
  }

  of(id: NodeId, depth = 0): readonly bigint[] | null {
    const known = this.#known.get(id);
    if (known !== undefined) return known;
    const made = this.#made(id, depth);
    this.#known.set(id, made);
    return made;
  }

  #made(id: NodeId, depth: number): readonly bigint[] | null {
    const node = item(this.#source.nodes, id);
    const unknown = node.width === 1 ? EITHER : null;
    if (node.op === 'const') return [node.value];
    if (isLeaf(node) || depth > DEEPEST) return unknown;
    this.evaluated++;
    if (node.op === 'mux') {
      const [condition, then, otherwise] = node.args;
      const taken = this.of(condition, depth + 1) ?? EITHER;
      const yes = taken.includes(1n) ? this.of(then, depth + 1) : [];
      const no = taken.includes(0n) ? this.of(otherwise, depth + 1) : [];
      return yes === null || no === null ? unknown : few([...yes, ...no]);
    }
    const sets = node.args.map((arg) => this.of(arg, depth + 1));
    if (node.op === 'and' && sets.some((set) => set?.length === 1 && set[0] === 0n)) return [0n];
    if (sets.some((set) => set === null)) return unknown;
    let rows: bigint[][] = [[]];
    for (const set of sets) {
      rows = rows.flatMap((row) => (set ?? []).map((value) => [...row, value]));
      if (rows.length > LARGEST_SET) return unknown;
    }
    const widths = node.args.map((arg) => item(this.#source.nodes, arg).width);
    return few(rows.map((row) => evaluateConstant(node.op, node.width, row, widths, lowBitOf(node))));
  }
}

function few(values: readonly bigint[]): readonly bigint[] | null {
  const different = [...new Set(values)];
  return different.length > LARGEST_SET ? null : different;
}
