// Counts that hardware keeps in a shift register with feedback: each step moves all bits up and puts in the opposite of the
// parity of a few of them. From 0 on such a register runs through all values but that of all ones.

/** Bits at the top that are alike with others: taps are counted from 1, the highest is the length. */
interface ShiftKind {
  readonly bits: number;
  readonly taps: readonly number[];
}

/** @source tables of primitive trinomials and pentanomials for maximal lengths (values from memory, tested) */
export const TIMES: ShiftKind = { bits: 17, taps: [17, 14] };
export const WITHIN: ShiftKind = { bits: 20, taps: [20, 17] };
export const TICKS: ShiftKind = { bits: 20, taps: [20, 17] };
export const SEEN: ShiftKind = { bits: 24, taps: [24, 23, 22, 17] };

/** The step after one value. */
function shifted(value: number, { bits, taps }: ShiftKind): number {
  let parity = 1;
  for (const tap of taps) parity ^= (value >>> (tap - 1)) & 1;
  return ((value << 1) & (2 ** bits - 1)) | parity;
}

/** A step of many: where 0 goes, and how each bit that is 1 changes that. */
interface Leap {
  readonly zero: number;
  readonly bits: readonly number[];
}

function leapt(value: number, { zero, bits }: Leap): number {
  let out = zero;
  for (let i = 0; i < bits.length; i++) if ((value >>> i) & 1) out ^= bits[i] ?? 0;
  return out;
}

/** 2 to the power of `log` steps at once. */
function leap(kind: ShiftKind, log: number): Leap {
  let zero = shifted(0, kind);
  let bits = Array.from({ length: kind.bits }, (_, i) => shifted(1 << i, kind) ^ zero);
  for (let i = 0; i < log; i++) {
    const half: Leap = { zero, bits };
    const twice = leapt(zero, half);
    bits = bits.map((bit) => leapt(bit, { zero: 0, bits: half.bits }));
    zero = twice;
  }
  return { zero, bits };
}

/** What the register holds after so many steps from 0. */
export function afterSteps(steps: number, kind: ShiftKind): number {
  let value = 0;
  for (let log = 0; 2 ** log <= steps; log++)
    if (Math.floor(steps / 2 ** log) % 2 === 1) value = leapt(value, leap(kind, log));
  return value;
}

/** What is never held. */
export const neverHeld = ({ bits }: ShiftKind): number => 2 ** bits - 1;

const LANDMARK_LOG = 12;
const landmarks = new Map<ShiftKind, ReadonlyMap<number, number>>();

/** Steps from 0 to a value; null for the one that is never held. Wraps at 2 to the power of the bits, less 1. */
export function stepsTo(value: number, kind: ShiftKind): number | null {
  if (value === neverHeld(kind)) return null;
  let known = landmarks.get(kind);
  if (!known) {
    const far = leap(kind, LANDMARK_LOG);
    const made = new Map<number, number>();
    for (let at = 0, i = 0; i < 2 ** (kind.bits - LANDMARK_LOG); i++, at = leapt(at, far))
      if (!made.has(at)) made.set(at, i * 2 ** LANDMARK_LOG);
    known = made;
    landmarks.set(kind, known);
  }
  const period = 2 ** kind.bits - 1;
  let at = value;
  for (let steps = 0; steps <= 2 ** LANDMARK_LOG; steps++) {
    const landmark = known.get(at);
    if (landmark !== undefined) return (landmark - steps + period) % period;
    at = shifted(at, kind);
  }
  return null;
}
