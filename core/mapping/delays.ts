/** Delays in nanoseconds. */
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
}

/** Corvane at speed grade 2. docs/silicon.md, table 7 */
const GRADE_2: Delays = {
  lut: 0.42,
  carry: 0.045,
  chainEnds: 0.3,
  clockToOut: 0.48,
  setup: 0.26,
  memoryClockToOut: 2.1,
  memorySetup: 0.5,
  tableMemory: 0.7,
  route: 0.58,
  routeGrowth: 0.17,
};

const FACTOR = { 1: 1.22, 2: 1, 3: 0.84 } as const;

type SpeedGrade = keyof typeof FACTOR;

export function delaysOf(grade: SpeedGrade): Delays {
  return Object.fromEntries(
    Object.entries(GRADE_2).map(([name, value]) => [name, value * FACTOR[grade]]),
  ) as unknown as Delays;
}
