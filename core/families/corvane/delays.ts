import type { Delays, MemoryCells } from '../cells.ts';

/** Speed grade 2. docs/silicon.md, table 7 */
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
  padIn: 0.95,
  padOut: 2.4,
  clockIn: 1.85,
};

const FACTORS: ReadonlyMap<number, number> = new Map([
  [1, 1.22],
  [2, 1],
  [3, 0.84],
]);

/** Slowest first. */
export const GRADES: readonly number[] = [...FACTORS.keys()];

/** Delays of a grade; one that is not made counts as the slowest. */
export function delaysOf(grade: number): Delays {
  const factor = FACTORS.get(grade) ?? Math.max(...FACTORS.values());
  return {
    lut: GRADE_2.lut * factor,
    carry: GRADE_2.carry * factor,
    chainEnds: GRADE_2.chainEnds * factor,
    clockToOut: GRADE_2.clockToOut * factor,
    setup: GRADE_2.setup * factor,
    memoryClockToOut: GRADE_2.memoryClockToOut * factor,
    memorySetup: GRADE_2.memorySetup * factor,
    tableMemory: GRADE_2.tableMemory * factor,
    route: GRADE_2.route * factor,
    routeGrowth: GRADE_2.routeGrowth * factor,
    padIn: GRADE_2.padIn * factor,
    padOut: GRADE_2.padOut * factor,
    clockIn: GRADE_2.clockIn * factor,
  };
}

/** Block RAMs of 4096 bits, look-up tables of 16. docs/silicon.md, section 1 */
export const MEMORIES: MemoryCells = {
  shapes: [
    [4096, 1],
    [2048, 2],
    [1024, 4],
    [512, 8],
    [256, 16],
  ],
  leastBlockBits: 256,
  tableWords: 16,
};
