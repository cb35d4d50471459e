import { intAt, item, numberAt } from '../../lists.ts';
import { ALL_ONES, flipped, swapped } from './truth.ts';

/**
 * How a function of four inputs comes from the one that stands for its class: `order[k]` is the function's input that
 * the class's input k is, turned round where bit k of `flips` is set; the output where `inverted`.
 */
interface Transform {
  readonly class: number;
  readonly order: readonly number[];
  readonly flips: number;
  readonly inverted: boolean;
}

const ORDERS: readonly (readonly number[])[] = permutations([0, 1, 2, 3]);

function permutations(list: readonly number[]): number[][] {
  if (list.length < 2) return [[...list]];
  return list.flatMap((first) => permutations(list.filter((one) => one !== first)).map((rest) => [first, ...rest]));
}

/** The function whose input `order[k]` is input k of the given one. */
function permuted(truth: number, order: readonly number[]): number {
  let out = truth;
  const at = [0, 1, 2, 3];
  for (let k = 0; k < 4; k++) {
    const from = at.indexOf(k);
    const to = numberAt(order, k);
    if (from === to) continue;
    out = swapped(out, Math.min(from, to), Math.max(from, to));
    const other = numberAt(at, to);
    at[to] = k;
    at[from] = other;
  }
  return out;
}

let classes: { readonly of: Int32Array; readonly how: Int32Array } | null = null;

/**
 * The 222 classes of functions of four inputs that differ only in the order and the sense of their inputs and output;
 * the smallest number of a class stands for it.
 *
 * @source NPN classification, as in the literature on Boolean matching (common practice)
 */
function allClasses(): { readonly of: Int32Array; readonly how: Int32Array } {
  if (classes) return classes;
  const of = new Int32Array(1 << 16);
  const how = new Int32Array(1 << 16);
  const seen = new Uint8Array(1 << 16);
  for (let truth = 0; truth <= ALL_ONES; truth++) {
    if (seen[truth]) continue;
    for (let o = 0; o < ORDERS.length; o++)
      for (let flips = 0; flips < 16; flips++) {
        const member = permuted(turned(truth, flips), item(ORDERS, o));
        for (const inverted of [0, 1]) {
          const one = inverted ? ~member & ALL_ONES : member;
          if (seen[one]) continue;
          seen[one] = 1;
          of[one] = truth;
          how[one] = (o << 5) | (flips << 1) | inverted;
        }
      }
  }
  classes = { of, how };
  return classes;
}

function turned(truth: number, flips: number): number {
  let out = truth;
  for (let k = 0; k < 4; k++) if ((flips >> k) & 1) out = flipped(out, k);
  return out;
}

export const classOf = (truth: number): number => intAt(allClasses().of, truth);

export function transformOf(truth: number): Transform {
  const { of, how } = allClasses();
  const code = intAt(how, truth);
  return {
    class: intAt(of, truth),
    order: item(ORDERS, code >> 5),
    flips: (code >> 1) & 15,
    inverted: (code & 1) === 1,
  };
}
