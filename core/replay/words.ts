// Words whose bits are functions of what is not known.
import { numberAt } from '../lists.ts';
import { evaluateConstant, type NetNode } from '../netlist/index.ts';
import type { Decisions, Fn } from './decisions.ts';

/** A number where every bit is known; else a function a bit, lowest first. */
export type Word = bigint | readonly Fn[];

export const bitOf = (word: Word, bit: number): Fn =>
  typeof word === 'bigint' ? ((word >> BigInt(bit)) & 1n ? 1 : 0) : numberAt(word, bit);

/** As a number where every bit is known. */
export function wordOf(bits: readonly Fn[]): Word {
  let value = 0n;
  for (let i = bits.length - 1; i >= 0; i--) {
    const bit = numberAt(bits, i);
    if (bit > 1) return bits;
    value = (value << 1n) | BigInt(bit);
  }
  return value;
}

/** What an operation makes of words. Memory reads, registers and inputs are others' to say. */
export function operate(functions: Decisions, node: NetNode, args: readonly Word[], widths: readonly number[]): Word {
  const { width } = node;
  switch (node.op) {
    case 'const':
      return node.value;
    case 'input':
    case 'reg':
    case 'memread':
    case 'wire':
      throw new RangeError(`${node.op} is no operation`);
    default:
  }
  const numbers = args.filter((word) => typeof word === 'bigint');
  if (numbers.length === args.length && node.op !== 'concat')
    return evaluateConstant(node.op, width, numbers, widths, node.op === 'slice' ? node.lo : 0);
  return wordOf(new Operation(functions, node, args, widths).bits());
}

class Operation {
  readonly #f: Decisions;
  readonly #node: NetNode;
  readonly #args: readonly Word[];
  readonly #widths: readonly number[];

  constructor(functions: Decisions, node: NetNode, args: readonly Word[], widths: readonly number[]) {
    this.#f = functions;
    this.#node = node;
    this.#args = args;
    this.#widths = widths;
  }

  #bits(i: number): Fn[] {
    const word = this.#args[i] ?? 0n;
    return Array.from({ length: numberAt(this.#widths, i) }, (_, bit) => bitOf(word, bit));
  }

  bits(): Fn[] {
    const f = this.#f;
    const node = this.#node;
    const { width } = node;
    const each = (make: (bit: number) => Fn): Fn[] => Array.from({ length: width }, (_, bit) => make(bit));
    const [a, b] = [this.#bits(0), this.#args.length > 1 ? this.#bits(1) : []];
    const at = (bits: readonly Fn[], i: number) => numberAt(bits, i);
    switch (node.op) {
      case 'not':
        return each((i) => f.not(at(a, i)));
      case 'and':
        return each((i) => f.and(at(a, i), at(b, i)));
      case 'or':
        return each((i) => f.or(at(a, i), at(b, i)));
      case 'xor':
        return each((i) => f.xor(at(a, i), at(b, i)));
      case 'mux': {
        const c = this.#bits(2);
        return each((i) => f.choice(at(a, 0), at(b, i), at(c, i)));
      }
      case 'concat':
        return this.#args.flatMap((_, i) => this.#bits(i));
      case 'slice':
        return a.slice(node.lo, node.lo + width);
      case 'sext':
        return each((i) => at(a, Math.min(i, a.length - 1)));
      case 'redand':
        return [a.reduce((all, bit) => f.and(all, bit), 1)];
      case 'redor':
        return [a.reduce((all, bit) => f.or(all, bit), 0)];
      case 'redxor':
        return [a.reduce((all, bit) => f.xor(all, bit), 0)];
      case 'eq':
        return [a.reduce((all, bit, i) => f.and(all, f.not(f.xor(bit, at(b, i)))), 1)];
      case 'ltu':
        return [this.#less(a, b)];
      case 'lts':
        return [this.#less(flipped(f, a), flipped(f, b))];
      case 'add':
        return this.#sum(a, b, 0);
      case 'sub':
        return this.#sum(
          a,
          b.map((bit) => f.not(bit)),
          1,
        );
      case 'mul':
        return this.#product(a, b);
      case 'shl':
      case 'shr':
      case 'sra':
        return this.#shifted(node.op, a, b);
      case 'divu':
      case 'modu':
        return this.#divided(a, b, node.op === 'divu');
      case 'divs':
      case 'mods':
        return this.#dividedSigned(a, b, node.op === 'divs');
      default:
        throw new RangeError(`${node.op} is no operation`);
    }
  }

  #less(a: readonly Fn[], b: readonly Fn[]): Fn {
    const f = this.#f;
    return a.reduce((below, bit, i) => {
      const other = numberAt(b, i);
      return f.choice(f.xor(bit, other), other, below);
    }, 0);
  }

  #sum(a: readonly Fn[], b: readonly Fn[], carryIn: Fn): Fn[] {
    const f = this.#f;
    let carry = carryIn;
    return a.map((bit, i) => {
      const other = numberAt(b, i);
      const half = f.xor(bit, other);
      const sum = f.xor(half, carry);
      carry = f.choice(half, carry, bit);
      return sum;
    });
  }

  #product(a: readonly Fn[], b: readonly Fn[]): Fn[] {
    const f = this.#f;
    let sum: Fn[] = a.map(() => 0);
    for (const [i, bit] of a.entries()) {
      if (bit === 0) continue;
      const row = sum.map((_, k) => (k < i ? 0 : f.and(bit, numberAt(b, k - i))));
      sum = this.#sum(sum, row, 0);
    }
    return sum;
  }

  #shifted(op: 'shl' | 'shr' | 'sra', a: readonly Fn[], by: readonly Fn[]): Fn[] {
    const f = this.#f;
    const fill = op === 'sra' ? numberAt(a, a.length - 1) : 0;
    let now = [...a];
    for (const [stage, bit] of by.entries()) {
      const far = 2 ** Math.min(stage, 30);
      now = now.map((own, i) => {
        const from = op === 'shl' ? i - far : i + far;
        const moved = from < 0 ? 0 : from >= now.length ? fill : numberAt(now, from);
        return f.choice(bit, moved, own);
      });
    }
    return now;
  }

  /** By subtracting where it goes, from the highest bit down; by zero the quotient is all ones, the rest the dividend. */
  #divided(a: readonly Fn[], b: readonly Fn[], wantsQuotient: boolean): Fn[] {
    const f = this.#f;
    const wide = [...b, 0];
    let rest: Fn[] = wide.map(() => 0);
    const quotient: Fn[] = a.map(() => 0);
    for (let i = a.length - 1; i >= 0; i--) {
      const moved = [numberAt(a, i), ...rest.slice(0, -1)];
      const goes = f.not(this.#less(moved, wide));
      const less = this.#sum(
        moved,
        wide.map((bit) => f.not(bit)),
        1,
      );
      rest = moved.map((bit, k) => f.choice(goes, numberAt(less, k), bit));
      quotient[i] = goes;
    }
    return wantsQuotient ? quotient : rest.slice(0, a.length);
  }

  #dividedSigned(a: readonly Fn[], b: readonly Fn[], wantsQuotient: boolean): Fn[] {
    const f = this.#f;
    const [minusA, minusB] = [numberAt(a, a.length - 1), numberAt(b, b.length - 1)];
    const isZero = f.not(b.reduce((any, bit) => f.or(any, bit), 0));
    const made = this.#divided(this.#negatedIf(minusA, a), this.#negatedIf(minusB, b), wantsQuotient);
    const signed = this.#negatedIf(wantsQuotient ? f.xor(minusA, minusB) : minusA, made);
    return signed.map((bit, i) => f.choice(isZero, wantsQuotient ? 1 : numberAt(a, i), bit));
  }

  #negatedIf(condition: Fn, a: readonly Fn[]): Fn[] {
    const f = this.#f;
    return this.#sum(
      a.map((bit) => f.xor(bit, condition)),
      a.map(() => 0),
      condition,
    );
  }
}

const flipped = (f: Decisions, bits: readonly Fn[]): Fn[] =>
  bits.map((bit, i) => (i === bits.length - 1 ? f.not(bit) : bit));
