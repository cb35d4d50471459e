import { item } from '../lists.ts';
import type { ComputedOp } from './types.ts';

const signed = (value: bigint, width: number): bigint => BigInt.asIntN(width, value);

/**
 * The value of an operation on known words, two-state. `widths` are those of the arguments, `width` that of the result.
 * This is the reference for what compiled code must compute.
 */
export function evaluateConstant(
  op: ComputedOp,
  width: number,
  values: readonly bigint[],
  widths: readonly number[],
  lo = 0,
): bigint {
  const [a = 0n, b = 0n, c = 0n] = values;
  const wa = widths[0] ?? width;
  const cut = (value: bigint) => BigInt.asUintN(width, value);
  switch (op) {
    case 'not':
      return cut(~a);
    case 'and':
      return a & b;
    case 'or':
      return a | b;
    case 'xor':
      return a ^ b;
    case 'redand':
      return a === (1n << BigInt(wa)) - 1n ? 1n : 0n;
    case 'redor':
      return a !== 0n ? 1n : 0n;
    case 'redxor':
      return parity(a);
    case 'add':
      return cut(a + b);
    case 'sub':
      return cut(a - b);
    case 'mul':
      return cut(a * b);
    case 'divu':
      return b === 0n ? cut(-1n) : a / b;
    case 'modu':
      return b === 0n ? a : a % b;
    case 'divs':
      return b === 0n ? cut(-1n) : cut(signed(a, wa) / signed(b, wa));
    case 'mods':
      return b === 0n ? a : cut(signed(a, wa) % signed(b, wa));
    case 'eq':
      return a === b ? 1n : 0n;
    case 'ltu':
      return a < b ? 1n : 0n;
    case 'lts':
      return signed(a, wa) < signed(b, wa) ? 1n : 0n;
    case 'shl':
      return b >= BigInt(width) ? 0n : cut(a << b);
    case 'shr':
      return b >= BigInt(width) ? 0n : a >> b;
    case 'sra':
      return cut(signed(a, wa) >> (b >= BigInt(width) ? BigInt(width) : b));
    case 'mux':
      return a ? b : c;
    case 'slice':
      return cut(a >> BigInt(lo));
    case 'sext':
      return cut(signed(a, wa));
    case 'concat': {
      let out = 0n;
      let at = 0n;
      for (const [i, value] of values.entries()) {
        out |= value << at;
        at += BigInt(item(widths, i));
      }
      return out;
    }
  }
}

function parity(value: bigint): bigint {
  let odd = 0n;
  for (let rest = value; rest !== 0n; rest >>= 1n) odd ^= rest & 1n;
  return odd;
}
