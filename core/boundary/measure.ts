import { type Bits, bitAt, concatBits, constantBits } from '../bits/index.ts';
import type { ScanQueue } from '../jtag/index.ts';

/**
 * Length of the boundary register of one device, measured: SAMPLE there, BYPASS elsewhere, then a single 1 sent after
 * enough zeros comes out as many bits later as the chain is long. SAMPLE leaves the device to its design. Null where it
 * does not come out within `most` bits.
 *
 * @source IEEE 1149.1: SAMPLE/PRELOAD, BYPASS of one bit
 */
export async function measureBoundary(
  queue: ScanQueue,
  irLengths: readonly number[],
  { place, sample, most }: { readonly place: number; readonly sample: Bits; readonly most: number },
): Promise<number | null> {
  const others = irLengths.length - 1;
  const longest = most + others;
  queue.reset();
  queue.ir(concatBits(...irLengths.map((length, i) => (i === place ? sample : constantBits(length, 1)))));
  const sent = concatBits(constantBits(longest, 0), constantBits(1, 1), constantBits(longest, 0));
  const answer = queue.drCapture(sent);
  queue.reset();
  await queue.flush();
  const read = await answer;
  for (let at = longest + 1; at < read.length; at++) if (bitAt(read, at) === 1) return at - longest - others;
  return null;
}
