import type { Op } from '../netlist/index.ts';

/** Signs of operations, as the language writes them. */
const SIGN: Partial<Record<Op, string>> = {
  not: '~',
  and: '&',
  or: '|',
  xor: '^',
  redand: '& all',
  redor: '| all',
  redxor: '^ all',
  add: '+',
  sub: '−',
  mul: '×',
  divu: '/',
  divs: '/',
  modu: '%',
  mods: '%',
  eq: '==',
  ltu: '<',
  lts: '< signed',
  shl: '<<',
  shr: '>>',
  sra: '>>>',
  mux: '? :',
};
const INPUT_NAMES: Partial<Record<Op, readonly string[]>> = {
  mux: ['if', 'then', 'else'],
  sub: ['a', 'b'],
  ltu: ['a', 'b'],
  lts: ['a', 'b'],
  shl: ['value', 'by'],
  shr: ['value', 'by'],
  sra: ['value', 'by'],
};

/** What is written on the box of an operation. */
export const signOf = (op: Op): string => SIGN[op] ?? op;

/** What is written at one of its inputs; nothing where they are alike. */
export const inputNameOf = (op: Op, input: number): string => INPUT_NAMES[op]?.[input] ?? '';
