import type { IoStandard } from '../io.ts';

/** Their order is part of the stream format. docs/silicon.md, table 8 */
export const STANDARDS: readonly IoStandard[] = [
  { name: 'LVCMOS 3.3 V', supply: 3.3, drives: [4, 8, 12, 16] },
  { name: 'LVCMOS 2.5 V', supply: 2.5, drives: [4, 8, 12] },
  { name: 'LVCMOS 1.8 V', supply: 1.8, drives: [2, 4, 8] },
];
