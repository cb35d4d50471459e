import { item, numberAt, wordAt } from '../../lists.ts';
import type { Values } from './words.ts';

/** Where a function must be 1 and where 0. */
export interface Wanted {
  readonly on: Values;
  readonly off: Values;
}

/** Parts of the window in which some inputs have one value each and the function still has both of its values. */
export function conflicts(wanted: Wanted, inputs: readonly Values[]): Wanted[] {
  const open: Wanted[] = [];
  if (isAny(wanted.on) && isAny(wanted.off))
    split(wanted, inputs, 0, (part) => {
      open.push(part);
      return true;
    });
  return open;
}

/** Whether inputs tell the two values of a function apart everywhere. */
export const determine = (wanted: Wanted, inputs: readonly Values[]): boolean =>
  !isAny(wanted.on) || !isAny(wanted.off) || split(wanted, inputs, 0, () => false);

/** Goes through the parts that have both values, until one is not accepted; false then. */
function split({ on, off }: Wanted, inputs: readonly Values[], at: number, accept: (part: Wanted) => boolean): boolean {
  const by = inputs[at];
  if (by === undefined) return accept({ on, off });
  for (const flip of [0, -1]) {
    const [partOn, partOff] = [new Uint32Array(on.length), new Uint32Array(on.length)];
    let [anyOn, anyOff] = [0, 0];
    for (let i = 0; i < on.length; i++) {
      const mask = wordAt(by, i) ^ flip;
      anyOn |= partOn[i] = wordAt(on, i) & mask;
      anyOff |= partOff[i] = wordAt(off, i) & mask;
    }
    if (anyOn !== 0 && anyOff !== 0 && !split({ on: partOn, off: partOff }, inputs, at + 1, accept)) return false;
  }
  return true;
}

function isAny(values: Values): boolean {
  for (let i = 0; i < values.length; i++) if (values[i] !== 0) return true;
  return false;
}

/** Whether one more input tells the two values of the function apart in every part. */
export const separates = (parts: readonly Wanted[], by: Values): boolean =>
  parts.every(({ on, off }) => isApart(on, off, by, 0) && isApart(on, off, by, -1));

/** The same for two more. */
export const separateBoth = (parts: readonly Wanted[], x: Values, y: Values): boolean =>
  parts.every(({ on, off }) => isApart2(on, off, x, y));

function isApart(on: Values, off: Values, by: Values, flip: number): boolean {
  let [ones, zeros] = [0, 0];
  for (let i = 0; i < on.length; i++) {
    const mask = wordAt(by, i) ^ flip;
    ones |= wordAt(on, i) & mask;
    zeros |= wordAt(off, i) & mask;
  }
  return ones === 0 || zeros === 0;
}

function isApart2(on: Values, off: Values, x: Values, y: Values): boolean {
  let [on0, on1, on2, on3, off0, off1, off2, off3] = [0, 0, 0, 0, 0, 0, 0, 0];
  for (let i = 0; i < on.length; i++) {
    const [a, b, o, z] = [wordAt(x, i), wordAt(y, i), wordAt(on, i), wordAt(off, i)];
    on0 |= o & ~a & ~b;
    on1 |= o & a & ~b;
    on2 |= o & ~a & b;
    on3 |= o & a & b;
    off0 |= z & ~a & ~b;
    off1 |= z & a & ~b;
    off2 |= z & ~a & b;
    off3 |= z & a & b;
  }
  return (
    (on0 === 0 || off0 === 0) && (on1 === 0 || off1 === 0) && (on2 === 0 || off2 === 0) && (on3 === 0 || off3 === 0)
  );
}

/** The table of at most four inputs that is 1 on `on` and 0 elsewhere, as far as inputs occur together there at all. */
export function tableOf(on: Values, inputs: readonly Values[]): number {
  let truth = 0;
  for (let row = 0; row < 1 << inputs.length; row++) {
    let any = 0;
    for (let i = 0; i < on.length; i++) {
      let mask = wordAt(on, i);
      for (let k = 0; k < inputs.length; k++) {
        const values = wordAt(item(inputs, k), i);
        mask &= (row >> k) & 1 ? values : ~values;
      }
      any |= mask;
    }
    if (any !== 0) truth |= 1 << row;
  }
  // Higher inputs than there are do not matter.
  for (let k = inputs.length; k < 4; k++) truth |= truth << (1 << k);
  return truth & 0xffff;
}

/** Values of `of` are within `care`: where a function is 1 and must be. */
export function wantedOf(values: Values, care: Values): Wanted {
  const on = new Uint32Array(values.length);
  const off = new Uint32Array(values.length);
  for (let i = 0; i < values.length; i++) {
    on[i] = wordAt(values, i) & wordAt(care, i);
    off[i] = ~wordAt(values, i) & wordAt(care, i);
  }
  return { on, off };
}

/** A function of up to seven inputs as bits: the value at place i. */
const bitAt = (values: Values, at: number): number => (wordAt(values, at >> 5) >>> (at & 31)) & 1;

/** Two tables one behind the other: `inner` of four inputs, `outer` of that one, first, and of others. */
interface TwoTables {
  readonly inner: readonly number[];
  readonly innerTruth: number;
  readonly outer: readonly number[];
  readonly outerTruth: number;
}

/**
 * A function of five to seven inputs as two tables, or null where there is no such: for each choice of the inner
 * table's inputs, and of one among them that the outer one sees too, the function has at most two different columns.
 *
 * @source decomposition of R. L. Ashenhurst, 1957, with an input shared (common practice)
 */
export function twoTables(
  { on, off }: Wanted,
  inputs: number,
  accepts: (inner: readonly number[], outer: readonly number[]) => boolean,
): TwoTables | null {
  for (const inner of CHOICES[inputs] ?? []) {
    const rest = ALL_INPUTS.slice(0, inputs).filter((input) => !inner.includes(input));
    const room = 3 - rest.length;
    if (room < 0) continue;
    const shares: readonly (readonly number[])[] = [
      [],
      ...(room > 0 ? inner.map((input) => [input]) : []),
      ...(room > 1 ? inner.flatMap((x, i) => inner.slice(i + 1).map((y) => [x, y])) : []),
    ];
    for (const shared of shares) {
      const outer = [...rest, ...shared];
      if (!accepts(inner, outer)) continue;
      const found = decomposed({ on, off }, inner, rest, shared);
      if (found) return found;
    }
  }
  return null;
}

const ALL_INPUTS = [0, 1, 2, 3, 4, 5, 6];

const choicesOf = (inputs: number): readonly (readonly number[])[] => {
  const found: number[][] = [];
  for (let set = 0; set < 1 << inputs; set++) {
    const chosen = ALL_INPUTS.filter((input) => (set >> input) & 1);
    if (chosen.length === 4) found.push(chosen);
  }
  return found;
};
const CHOICES: Readonly<Record<number, readonly (readonly number[])[]>> = {
  5: choicesOf(5),
  6: choicesOf(6),
  7: choicesOf(7),
};

/** A column of a function: where it is 1, and where it matters. */
interface Column {
  readonly ones: number;
  readonly care: number;
}

/** One column in the place of two that differ nowhere that matters; null where they do. */
const joined = (x: Column | undefined, y: Column): Column | null =>
  x === undefined
    ? y
    : ((x.ones ^ y.ones) & x.care & y.care) === 0
      ? { ones: x.ones | y.ones, care: x.care | y.care }
      : null;

function decomposed(
  { on, off }: Wanted,
  inner: readonly number[],
  rest: readonly number[],
  shared: readonly number[],
): TwoTables | null {
  const sharedAt = shared.map((input) => inner.indexOf(input));
  /** For each value of the shared inputs the column that the inner table calls 0. */
  const zero = new Map<number, Column>();
  const one = new Map<number, Column>();
  let innerTruth = 0;
  for (let row = 0; row < 16; row++) {
    let place = 0;
    for (let k = 0; k < 4; k++) if ((row >> k) & 1) place |= 1 << numberAt(inner, k);
    let [ones, care] = [0, 0];
    for (let r = 0; r < 1 << rest.length; r++) {
      let at = place;
      for (const [k, input] of rest.entries()) if ((r >> k) & 1) at |= 1 << input;
      ones |= bitAt(on, at) << r;
      care |= (bitAt(on, at) | bitAt(off, at)) << r;
    }
    let key = 0;
    for (const [k, at] of sharedAt.entries()) key |= ((row >> at) & 1) << k;
    const asZero = joined(zero.get(key), { ones, care });
    if (asZero) {
      zero.set(key, asZero);
      continue;
    }
    const asOne = joined(one.get(key), { ones, care });
    if (asOne === null) return null;
    one.set(key, asOne);
    innerTruth |= 1 << row;
  }
  let outerTruth = 0;
  const outer = [...rest, ...shared];
  for (let row = 0; row < 16; row++) {
    const key = (row >> (1 + rest.length)) & ((1 << shared.length) - 1);
    const column = (row & 1 ? one : zero).get(key)?.ones ?? 0;
    outerTruth |= ((column >> ((row >> 1) & ((1 << rest.length) - 1))) & 1) << row;
  }
  return { inner, innerTruth, outer, outerTruth };
}
