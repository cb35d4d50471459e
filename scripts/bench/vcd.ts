// How fast value change dumps are read, against one pass over the same bytes: all that is in them, and one signal
// alone.
import { byteAt } from '../../core/lists.ts';
import { VcdReader } from '../../core/wave/index.ts';

const PIECE_BYTES = 1 << 20;
const SIGNALS = 64;
const TICKS = 1_000_000;

/** A dump as simulations write them: a clock, bits, words, in the proportion in which they move. */
function dump(): Uint8Array {
  const head = ['$timescale 1 ns $end', '$scope module top $end'];
  const code = (i: number) => String.fromCharCode(33 + i);
  for (let i = 0; i < SIGNALS; i++) head.push(`$var wire ${i % 4 === 3 ? 16 : 1} ${code(i)} s${i} $end`);
  const lines = [...head, '$upscope $end', '$enddefinitions $end'];
  let seed = 1;
  for (let tick = 0; tick < TICKS; tick++) {
    lines.push(`#${tick * 5}`, `${tick & 1}${code(0)}`);
    seed = (Math.imul(seed, 1664525) + 1013904223) >>> 0;
    const i = 1 + ((seed >>> 16) % (SIGNALS - 1));
    lines.push(i % 4 === 3 ? `b${(seed & 0xffff).toString(2)} ${code(i)}` : `${(seed >>> 8) & 1}${code(i)}`);
  }
  return new TextEncoder().encode(`${lines.join('\n')}\n`);
}

function read(bytes: Uint8Array, only: readonly string[] | undefined): number {
  const start = performance.now();
  const reader = new VcdReader(only ? { only } : {});
  for (let at = 0; at < bytes.length; at += PIECE_BYTES) reader.push(bytes.subarray(at, at + PIECE_BYTES));
  if (!reader.finish().valid) throw new Error('the dump is not valid');
  reader.recording('bench');
  return performance.now() - start;
}

/** Times a byte of one pass, the best of several rounds each. */
export function vcdReading(): { readonly whole: number; readonly one: number; readonly megabytesPerSecond: number } {
  const bytes = dump();
  const best = (work: () => number): number => Math.min(...Array.from({ length: 12 }, work));
  let sum = 0;
  const pass = best(() => {
    const start = performance.now();
    for (let i = 0; i < bytes.length; i++) sum = (sum + byteAt(bytes, i)) | 0;
    return performance.now() - start;
  });
  const whole = best(() => read(bytes, undefined));
  const one = best(() => read(bytes, ['top.s3']));
  return {
    whole: whole / pass,
    one: one / pass,
    megabytesPerSecond: bytes.length / 1e3 / whole + (sum === 0.5 ? 1 : 0),
  };
}
