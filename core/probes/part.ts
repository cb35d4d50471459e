// Parts of signals in plans: `top.u_count.value[3:0]`.

/** Neighbouring bits of a signal, counted from its lowest, which is number 0. */
interface SignalPart {
  readonly signal: string;
  readonly lo: number;
  readonly width: number;
}

const PART = /^(.+)\[(\d{1,6})(?::(\d{1,6}))?\]$/;

/** What a name says that is none of a whole signal; null where it says no part. */
export function signalPart(name: string): SignalPart | null {
  const [, signal, high, low = high] = PART.exec(name) ?? [];
  if (signal === undefined || high === undefined || low === undefined || Number(low) > Number(high)) return null;
  return { signal, lo: Number(low), width: Number(high) - Number(low) + 1 };
}

/**
 * A signal by its name, or the part of one: names of whole signals come first, for elements of arrays are written like
 * bits. Null where there is no such signal, or it has no such bits.
 */
export function partOf<T extends { readonly width: number }>(
  find: (name: string) => T | null | undefined,
  name: string,
): { readonly of: T; readonly lo: number; readonly width: number } | null {
  const whole = find(name);
  if (whole) return { of: whole, lo: 0, width: whole.width };
  const part = signalPart(name);
  const of = part && find(part.signal);
  return part && of && part.lo + part.width <= of.width ? { of, lo: part.lo, width: part.width } : null;
}
