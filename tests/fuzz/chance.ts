// Chance that comes again: the same seed gives the same inputs on every machine.

export interface Chance {
  /** At least 0 and less than `most`; `most` up to 2^32. */
  below(most: number): number;
  /** True once in so many times. */
  oneIn(times: number): boolean;
  pick<T>(of: readonly T[]): T;
}

/** Mulberry32, a generator in the public domain: 32 bits of state, good enough for choosing. */
export function chanceFrom(seed: number): Chance {
  let state = seed >>> 0;
  const next = () => {
    state = (state + 0x6d2b79f5) >>> 0;
    let mixed = Math.imul(state ^ (state >>> 15), state | 1);
    mixed ^= mixed + Math.imul(mixed ^ (mixed >>> 7), mixed | 61);
    return ((mixed ^ (mixed >>> 14)) >>> 0) / 2 ** 32;
  };
  const below = (most: number) => Math.floor(next() * most);
  return {
    below,
    oneIn: (times) => below(times) === 0,
    pick: (of) => of[below(of.length)] as (typeof of)[number],
  };
}

/** A seed of its own for each input of each reader. */
export function seedOf(text: string): number {
  let hash = 0x811c9dc5;
  for (const unit of text) hash = Math.imul(hash ^ (unit.codePointAt(0) ?? 0), 0x01000193) >>> 0;
  return hash;
}
