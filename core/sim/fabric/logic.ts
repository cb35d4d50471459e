import { type ComputedNode, evaluateConstant, lowBitOf } from '../../netlist/index.ts';

/**
 * A word of 0, 1, x and z: where `unknown` has 0 the bit of `value` counts; where it has 1, `value` tells x (1) from z
 * (0).
 */
export interface Logic {
  readonly value: bigint;
  readonly unknown: bigint;
}

export const known = (value: bigint): Logic => ({ value, unknown: 0n });

const ones = (width: number): bigint => (1n << BigInt(width)) - 1n;

export const allUnknown = (width: number): Logic => ({ value: ones(width), unknown: ones(width) });

/** Ones and zeros as sets: bits that are surely 1, and bits that are surely 0. */
const sureOnes = ({ value, unknown }: Logic): bigint => value & ~unknown;
const sureZeros = ({ value, unknown }: Logic, width: number): bigint => ~(value | unknown) & ones(width);

const fromSure = (one: bigint, zero: bigint, width: number): Logic => {
  const unknown = ones(width) & ~(one | zero);
  return { value: one | unknown, unknown };
};

const bit = (one: boolean, zero: boolean): Logic => fromSure(one ? 1n : 0n, zero ? 1n : 0n, 1);

/**
 * One operation on four-state words.
 *
 * @source IEEE 1364-2005, clause 5.1: arithmetic and relational operators with any x or z give x; the bitwise tables
 * 5-8 to 5-12; === and !== compare x and z; a conditional with an unknown selector merges bit by bit (table 5-21)
 */
export function evaluateFourState(node: ComputedNode, args: readonly Logic[], widths: readonly number[]): Logic {
  const { op, width } = node;
  const [a = known(0n), b = known(0n), c = known(0n)] = args;
  const first = widths[0] ?? width;
  const plain = () =>
    known(
      evaluateConstant(
        op,
        width,
        args.map((arg) => arg.value),
        widths,
        lowBitOf(node),
      ),
    );
  const anyUnknown = args.some((arg) => arg.unknown !== 0n);
  switch (node.op) {
    case 'not':
      return anyUnknown ? fromSure(sureZeros(a, width), sureOnes(a), width) : plain();
    case 'and':
      return anyUnknown
        ? fromSure(sureOnes(a) & sureOnes(b), sureZeros(a, width) | sureZeros(b, width), width)
        : plain();
    case 'or':
      return anyUnknown
        ? fromSure(sureOnes(a) | sureOnes(b), sureZeros(a, width) & sureZeros(b, width), width)
        : plain();
    case 'xor': {
      if (!anyUnknown) return plain();
      const unknown = a.unknown | b.unknown;
      return { value: (a.value ^ b.value) | unknown, unknown };
    }
    case 'redand':
      return bit(sureOnes(a) === ones(first), sureZeros(a, first) !== 0n);
    case 'redor':
      return bit(sureOnes(a) !== 0n, sureZeros(a, first) === ones(first));
    case 'eq':
      return anyUnknown ? allUnknown(1) : plain();
    case 'caseeq':
      return known(a.value === b.value && a.unknown === b.unknown ? 1n : 0n);
    case 'casezeq':
      return matches(a, b, floats(a) | floats(b));
    case 'casexeq':
      return matches(a, b, a.unknown | b.unknown);
    case 'truth':
      return known(sureOnes(a) !== 0n ? 1n : 0n);
    case 'mux':
      return select(a, b, c);
    case 'divu':
    case 'modu':
    case 'divs':
    case 'mods':
      return anyUnknown || b.value === 0n ? allUnknown(width) : plain();
    case 'shl':
    case 'shr':
    case 'sra':
      return b.unknown ? allUnknown(width) : shifted(node.op, a, b.value, width);
    case 'shrx':
      return b.unknown ? allUnknown(width) : taken(a, b.value, first, width);
    case 'slice':
      return {
        value: (a.value >> BigInt(node.lo)) & ones(width),
        unknown: (a.unknown >> BigInt(node.lo)) & ones(width),
      };
    case 'sext': {
      const extend = (word: bigint) => BigInt.asUintN(width, BigInt.asIntN(first, word));
      return { value: extend(a.value), unknown: extend(a.unknown) };
    }
    case 'concat': {
      if (!anyUnknown) return plain();
      const join = (words: readonly bigint[]) => evaluateConstant('concat', width, words, widths);
      return { value: join(args.map((arg) => arg.value)), unknown: join(args.map((arg) => arg.unknown)) };
    }
    default:
      return anyUnknown ? allUnknown(width) : plain();
  }
}

const floats = ({ value, unknown }: Logic): bigint => unknown & ~value;

const matches = (a: Logic, b: Logic, open: bigint): Logic =>
  known((((a.value ^ b.value) | (a.unknown ^ b.unknown)) & ~open) === 0n ? 1n : 0n);

function select(condition: Logic, then: Logic, otherwise: Logic): Logic {
  if (condition.unknown === 0n) return condition.value ? then : otherwise;
  const unknown = then.unknown | otherwise.unknown | (then.value ^ otherwise.value);
  return { value: then.value | otherwise.value | unknown, unknown };
}

function shifted(op: 'shl' | 'shr' | 'sra', a: Logic, by: bigint, width: number): Logic {
  const move = (word: bigint) => evaluateConstant(op, width, [word, by], [width, width]);
  return { value: move(a.value), unknown: move(a.unknown) };
}

/** `width` bits from bit `by` up; bits above the word are x. */
function taken(a: Logic, by: bigint, have: number, width: number): Logic {
  const size = BigInt(have);
  if (by >= size) return allUnknown(width);
  const left = size - by;
  const beyond = left >= BigInt(width) ? 0n : ones(width) & ~((1n << left) - 1n);
  return { value: ((a.value >> by) & ones(width)) | beyond, unknown: ((a.unknown >> by) & ones(width)) | beyond };
}
