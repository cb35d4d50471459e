// Text of JavaScript that is being put together, and values in it.
import { four } from '../../hdl/index.ts';
import type { Kind } from './objects.ts';

/**
 * A value in generated code: the names or literals that hold it. A narrow one is a 32-bit integer filled up with 0
 * (of 32 bits: as signed), a wide one a big integer. `x` is '0' or '0n' where nothing can be unknown.
 */
export interface Operand {
  readonly kind: Kind;
  readonly v: string;
  readonly x: string;
  readonly width: number;
}

const NARROW = 32;

export const kindOf = (width: number): 'narrow' | 'wide' => (width <= NARROW ? 'narrow' : 'wide');

/** Lines of one function, and names that are free in it. */
export class Code {
  readonly lines: string[] = [];
  #names = 0;

  name(letter = 't'): string {
    return `${letter}${this.#names++}`;
  }

  line(text: string): void {
    this.lines.push(text);
  }

  /** Holds a value under a name; literals and names stay what they are. */
  held(text: string): string {
    if (/^-?\d+n?$|^[A-Za-z_$][\w$]*$/.test(text)) return text;
    const name = this.name();
    this.line(`const ${name} = ${text};`);
    return name;
  }

  get text(): string {
    return this.lines.join('\n');
  }
}

export const isKnown = ({ x }: Operand): boolean => x === '0' || x === '0n';

/** Ones in the lowest bits, as a literal for narrow values. */
export const ones = (width: number): string => (width >= NARROW ? '-1' : `${2 ** width - 1}`);

export const wideOnes = (width: number): string => `${four.mask(width)}n`;

/** Cuts a narrow result that may have grown beyond its width. */
export const cut = (text: string, width: number): string =>
  width >= NARROW ? `(${text}) | 0` : `(${text}) & ${ones(width)}`;

export const narrow = (v: string, x: string, width: number): Operand => ({ kind: 'narrow', v, x, width });
export const wide = (v: string, x: string, width: number): Operand => ({ kind: 'wide', v, x, width });

export function literalOperand(word: { readonly v: bigint; readonly x: bigint }, width: number): Operand {
  if (width > NARROW) return wide(`${word.v}n`, `${word.x}n`, width);
  const plain = (bits: bigint) => `${BigInt.asIntN(NARROW, bits)}`;
  return narrow(plain(word.v), plain(word.x), width);
}

export const unknownOperand = (width: number): Operand => literalOperand(four.allUnknown(width), width);

/** To another width, filled up with 0 or with the sign. */
export function resized(code: Code, from: Operand, width: number, signed: boolean): Operand {
  const { kind, v, x } = from;
  if (kind === 'real' || kind === 'text' || width === from.width) return from;
  const known = isKnown(from);
  if (kind === 'narrow' && width <= NARROW) {
    if (width < from.width) {
      const low = (bits: string) => code.held(`${bits} & ${ones(width)}`);
      return narrow(low(v), known ? '0' : low(x), width);
    }
    if (!signed) {
      // Of 32 bits a narrow value is signed, of fewer it is not: nothing changes.
      return narrow(v, x, width);
    }
    const shift = NARROW - from.width;
    const sign = (bits: string) => code.held(cut(`(${bits} << ${shift}) >> ${shift}`, width));
    return narrow(sign(v), known ? '0' : sign(x), width);
  }
  if (kind === 'narrow') {
    const shift = NARROW - from.width;
    const grow = (bits: string) =>
      signed
        ? code.held(`BigInt.asUintN(${width}, BigInt((${bits} << ${shift}) >> ${shift}))`)
        : code.held(`BigInt(${bits} >>> 0)`);
    return wide(grow(v), known ? '0n' : grow(x), width);
  }
  if (width <= NARROW) {
    const low = (bits: string) => code.held(cut(`Number(BigInt.asIntN(32, ${bits}))`, width));
    return narrow(low(v), known ? '0' : low(x), width);
  }
  if (width < from.width) {
    const low = (bits: string) => code.held(`BigInt.asUintN(${width}, ${bits})`);
    return wide(low(v), known ? '0n' : low(x), width);
  }
  if (!signed) return wide(v, x, width);
  const sign = (bits: string) => code.held(`BigInt.asUintN(${width}, BigInt.asIntN(${from.width}, ${bits}))`);
  return wide(sign(v), known ? '0n' : sign(x), width);
}

/** As a JavaScript number, the unknown bits as 0. Narrow and wide. */
export function asNumber(from: Operand, signed: boolean): string {
  const { kind, v, x, width } = from;
  if (kind === 'real') return v;
  if (kind === 'narrow') {
    const bits = isKnown(from) ? v : `(${v} & ~${x})`;
    const shift = NARROW - width;
    return signed ? (shift === 0 ? `(${bits} | 0)` : `((${bits} << ${shift}) >> ${shift})`) : `(${bits} >>> 0)`;
  }
  const bits = isKnown(from) ? v : `(${v} & ~${x})`;
  return signed ? `Number(BigInt.asIntN(${width}, ${bits}))` : `Number(${bits})`;
}

/** As a word for the helpers that take any width. */
export const asWord = ({ kind, v, x }: Operand): string =>
  kind === 'wide' ? `{ v: ${v}, x: ${x} }` : `{ v: BigInt(${v} >>> 0), x: BigInt(${x} >>> 0) }`;

/** A word that a helper gave, as an operand. */
export function fromWord(code: Code, text: string, width: number): Operand {
  const name = code.held(text);
  if (width > NARROW) return wide(`${name}.v`, `${name}.x`, width);
  const bits = (part: string) => code.held(`Number(BigInt.asIntN(32, ${name}.${part}))`);
  return narrow(bits('v'), bits('x'), width);
}
