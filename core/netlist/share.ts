import { item } from '../lists.ts';
import type { NetBuilder } from './builder.ts';
import type { Netlist, NodeId } from './types.ts';

/** What a choice between sums is built from: a term each, and what is added to it where one side only adds. */
interface Sum {
  readonly a: NodeId;
  readonly b: NodeId;
  readonly isLess: boolean;
}

/** Makes one sum in the place of a choice between two; `of` gives what words of the source became. */
type Shared = (build: NetBuilder, condition: NodeId, of: (id: NodeId) => NodeId) => NodeId;

/**
 * A choice between sums as a sum of choices, so that one adder does: `s ? a - b : a + b`, `s ? a + b : a + c`,
 * `load ? d : q + 1`. Null where it is none, or where one of the sums is there for others too. Only the lowest bits that
 * are asked for are right, whatever their number.
 *
 * @source resource sharing of operations under exclusive conditions (common practice)
 */
export function sharedSum(source: Netlist, uses: ArrayLike<number>, then: NodeId, otherwise: NodeId): Shared | null {
  const [yes, no] = [sumOf(source, uses, then), sumOf(source, uses, otherwise)];
  if (yes && no) return both(source, yes, no);
  if (yes) return one(source, yes, otherwise, true);
  return no ? one(source, no, then, false) : null;
}

/** A sum or a difference that nothing else takes. */
function sumOf(source: Netlist, uses: ArrayLike<number>, id: NodeId): Sum | null {
  const node = item(source.nodes, id);
  if ((node.op !== 'add' && node.op !== 'sub') || uses[id] !== 1) return null;
  const [a, b] = node.args;
  return { a, b, isLess: node.op === 'sub' };
}

const repeated = (build: NetBuilder, bit: NodeId, width: number): NodeId =>
  build.concat(Array.from({ length: width }, () => bit));

const asWord = (build: NetBuilder, bit: NodeId, width: number): NodeId => build.resize(bit, width, false);

const isConstant = (source: Netlist, id: NodeId): boolean => source.nodes[id]?.op === 'const';

/** The second operand of a sum as what is added, turned round where it is subtracted, and 1 then to be added too. */
function both(source: Netlist, yes: Sum, no: Sum): Shared | null {
  const [x, y] = aligned(yes, no) ?? [];
  if (!x || !y) return null;
  return (build, condition, of) => {
    const a = of(x.a);
    const width = build.width(a);
    if (x.isLess === y.isLess) {
      const chosen = build.mux(condition, of(x.b), of(y.b));
      return x.isLess ? build.sub(a, chosen) : build.add(a, chosen);
    }
    const isLess = x.isLess ? condition : build.not(condition);
    // What is subtracted as a constant is the addition of another one.
    const [less, more] = x.isLess ? [x, y] : [y, x];
    if (isConstant(source, less.b)) {
      const negative = build.sub(build.constant(0n, width), of(less.b));
      return build.add(a, build.mux(isLess, negative, of(more.b)));
    }
    const operand =
      x.b === y.b
        ? build.xor(of(x.b), repeated(build, isLess, width))
        : build.mux(isLess, build.not(of(less.b)), of(more.b));
    return build.add(build.add(a, operand), asWord(build, isLess, width));
  };
}

/** Two sums so that their first operands are the same word. */
function aligned(yes: Sum, no: Sum): [Sum, Sum] | null {
  const turned = (sum: Sum): Sum[] => (sum.isLess ? [sum] : [sum, { ...sum, a: sum.b, b: sum.a }]);
  for (const x of turned(yes)) for (const y of turned(no)) if (x.a === y.a) return [x, y];
  return null;
}

/** A sum or something else; `isThen` where the sum is what the condition chooses. */
function one(source: Netlist, sum: Sum, other: NodeId, isThen: boolean): Shared | null {
  const otherNode = item(source.nodes, other);
  // A register that holds has its own pin for that, and so has a reset.
  if (otherNode.op === 'const') return null;
  const zero = source.nodes[sum.a];
  if (sum.isLess && zero?.op === 'const' && zero.value === 0n && sum.b === other) return negated(sum.b, isThen);
  const sides = sum.isLess ? [sum] : [sum, { ...sum, a: sum.b, b: sum.a }];
  const same = sides.find(({ a }) => a === other);
  if (same) return otherNode.op === 'reg' ? null : maybe(same, isThen);
  const withConstant = sides.find(({ b }) => isConstant(source, b));
  return withConstant ? chosenFirst(withConstant, other, isThen) : null;
}

const active = (build: NetBuilder, condition: NodeId, isThen: boolean): NodeId =>
  isThen ? condition : build.not(condition);

/** `s ? -a : a`. */
const negated =
  (word: NodeId, isThen: boolean): Shared =>
  (build, condition, of) => {
    const a = of(word);
    const width = build.width(a);
    const is = active(build, condition, isThen);
    return build.add(build.xor(a, repeated(build, is, width)), asWord(build, is, width));
  };

/** `s ? a + b : a`. */
const maybe =
  ({ a, b, isLess }: Sum, isThen: boolean): Shared =>
  (build, condition, of) => {
    const first = of(a);
    const width = build.width(first);
    const is = active(build, condition, isThen);
    const operand = build.and(of(b), repeated(build, is, width));
    return isLess ? build.sub(first, operand) : build.add(first, operand);
  };

/** `s ? a + K : c`. */
const chosenFirst =
  ({ a, b, isLess }: Sum, other: NodeId, isThen: boolean): Shared =>
  (build, condition, of) => {
    const first = of(a);
    const width = build.width(first);
    const is = active(build, condition, isThen);
    const by = isLess ? build.sub(build.constant(0n, width), of(b)) : of(b);
    return build.add(build.mux(is, first, of(other)), build.and(by, repeated(build, is, width)));
  };
