// How fast SVF is read, against one pass over the same bytes, and what that takes of memory.
import { SvfReader } from '../../core/svf/index.ts';

const PIECE_BYTES = 1 << 18;
const TOTAL_BYTES = 200 << 20;

/** A file as exports look: long vectors wrapped over lines, short commands between. */
function piece(): Uint8Array {
  const line = `${'0123456789ABCDEF'.repeat(6)}\n`;
  const command = `SIR 6 TDI (12);\nSDR 38400 TDI (${line.repeat(100)});\nRUNTEST IDLE 100 TCK;\n`;
  return new TextEncoder().encode(command.repeat(Math.ceil(PIECE_BYTES / command.length)));
}

/** Times a byte of reading and of one pass, and the growth of the heap in MiB over 200 MiB. */
export function svfReading(): {
  readonly times: number;
  readonly heapMiB: number;
  readonly megabytesPerSecond: number;
} {
  const bytes = piece();
  const rounds = Math.ceil(TOTAL_BYTES / bytes.length);
  const onePass = (): number => {
    let sum = 0;
    for (const byte of bytes) sum = (sum + byte) | 0;
    return sum;
  };
  for (let i = 0; i < 20; i++) onePass();
  const passStart = performance.now();
  let sum = 0;
  for (let i = 0; i < rounds; i++) sum ^= onePass();
  const pass = performance.now() - passStart + (sum === 0.5 ? 1 : 0);
  const reader = new SvfReader();
  for (let i = 0; i < 20; i++) reader.push(bytes);
  const before = process.memoryUsage().heapUsed;
  const start = performance.now();
  for (let i = 0; i < rounds; i++) reader.push(bytes);
  const reading = performance.now() - start;
  return {
    times: reading / pass,
    heapMiB: (process.memoryUsage().heapUsed - before) / 2 ** 20,
    megabytesPerSecond: (rounds * bytes.length) / 1e3 / reading,
  };
}
