/** Delays of a part's cells at one speed grade, in nanoseconds. */
export interface Delays {
  readonly lut: number;
  /** One step along a carry chain. */
  readonly carry: number;
  /** Into or out of the chain. */
  readonly chainEnds: number;
  readonly clockToOut: number;
  readonly setup: number;
  readonly memoryClockToOut: number;
  readonly memorySetup: number;
  /** Reading a memory made of tables. */
  readonly tableMemory: number;
  /** A connection: the part for any, and the part that grows with the logarithm of how many inputs it reaches. */
  readonly route: number;
  readonly routeGrowth: number;
  /** From a pin into the fabric, and from there out. */
  readonly padIn: number;
  readonly padOut: number;
  /** From a clock's pin to the registers. */
  readonly clockIn: number;
}

/** What memories can be made of. */
export interface MemoryCells {
  /** Words by bits that one block RAM can be. */
  readonly shapes: readonly (readonly [words: number, bits: number])[];
  /** A memory of fewer bits than this is cheaper in tables. */
  readonly leastBlockBits: number;
  /** Words of one bit that a table holds. */
  readonly tableWords: number;
}
