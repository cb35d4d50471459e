import { numberAt } from '../../lists.ts';
import { ALL_ONES, type ChainBit, COLUMNS, FALSE, isInverted, type Literal, nodeOf, TRUE } from '../gates/index.ts';
import type { Cuts } from './cuts.ts';
import { type Cell, GENERATE } from './net.ts';

/** Inputs of a table in a chain, beside the carry. */
const CELL_INPUTS = 3;

/**
 * Ways to put one bit of a chain into its table: both operands as they are, or one of them together with the logic
 * before it, as long as there are no more than three inputs in all. What the bit generates must be an input or a
 * constant: where nothing propagates, both operands are equal.
 */
export function cellsFor({ a, b }: ChainBit, cuts: Cuts, isGateNode: (node: number) => boolean): Cell[] {
  if (b <= TRUE) return a <= TRUE ? [constantCell(a, b)] : withConstant(a, b, cuts, isGateNode);
  if (a <= TRUE) return withConstant(b, a, cuts, isGateNode);
  return [
    ...withSignal(a, [nodeOf(b)], COLUMNS[0] ^ flip(b)),
    ...absorbed(a, b, cuts, isGateNode),
    ...absorbed(b, a, cuts, isGateNode),
  ];
}

const flip = (literal: Literal): number => (isInverted(literal) ? ALL_ONES : 0);

const constantCell = (a: Literal, b: Literal): Cell => ({
  inputs: [],
  propagate: a === b ? 0 : ALL_ONES,
  generate: a === FALSE ? GENERATE.zero : GENERATE.one,
});

function withConstant(a: Literal, constant: Literal, cuts: Cuts, isGateNode: (node: number) => boolean): Cell[] {
  const generate = constant === FALSE ? GENERATE.zero : GENERATE.one;
  const all = flip(a) ^ (constant === TRUE ? ALL_ONES : 0);
  const found: Cell[] = [{ inputs: [nodeOf(a)], propagate: COLUMNS[0] ^ all, generate }];
  const node = nodeOf(a);
  if (isGateNode(node))
    for (let cut = 0; cut < cuts.count(node); cut++) {
      if (cuts.size(node, cut) > CELL_INPUTS) continue;
      const { leaves, truth } = cuts.at(node, cut);
      found.push({ inputs: leaves, propagate: truth ^ all, generate });
    }
  return found;
}

/** The first operand as it is, the other one together with what is before it. */
function absorbed(raw: Literal, other: Literal, cuts: Cuts, isGateNode: (node: number) => boolean): Cell[] {
  const node = nodeOf(other);
  if (!isGateNode(node)) return [];
  const found: Cell[] = [];
  for (let cut = 0; cut < cuts.count(node); cut++) {
    if (cuts.size(node, cut) > CELL_INPUTS) continue;
    const { leaves, truth } = cuts.at(node, cut);
    found.push(...withSignal(raw, leaves, truth ^ flip(other)));
  }
  return found;
}

/** An operand as it is beside a function of some leaves; it is what the bit generates. */
function withSignal(raw: Literal, leaves: readonly number[], truth: number): Cell[] {
  const node = nodeOf(raw);
  const at = leaves.indexOf(node);
  const inputs = at < 0 ? [...leaves, node] : leaves;
  if (inputs.length > CELL_INPUTS) return [];
  const place = at < 0 ? leaves.length : at;
  return [{ inputs, propagate: truth ^ numberAt(COLUMNS, place) ^ flip(raw), generate: place * 2 + (raw & 1) }];
}
