import { type Bits, bitAt, concatBits, constantBits, sliceBits } from '../bits/index.ts';
import type { ScanQueue } from './queue.ts';
import { testPattern } from './test-pattern.ts';

/** Bits sent through BYPASS registers and how many came back wrong. */
export interface BypassTest {
  readonly bits: number;
  readonly errors: number;
  /** Place of the first wrong bit; null without one. */
  readonly firstError: number | null;
}

/** Puts every device into BYPASS and sends a pattern through: it must come back behind one 0 a device. */
export async function testBypass(
  queue: ScanQueue,
  devices: number,
  irTotal: number,
  bits: number,
): Promise<BypassTest> {
  queue.reset();
  queue.ir(constantBits(Math.max(irTotal, 2), 1));
  const pattern = testPattern(bits);
  const answer = await queue.exchangeDr(concatBits(pattern, constantBits(devices, 0)));
  return compare(sliceBits(answer, devices, bits), pattern);
}

function compare(answer: Bits, pattern: Bits): BypassTest {
  let errors = 0;
  let firstError: number | null = null;
  for (let i = 0; i < pattern.length; i++)
    if (bitAt(answer, i) !== bitAt(pattern, i)) {
      errors++;
      firstError ??= i;
    }
  return { bits: pattern.length, errors, firstError };
}
