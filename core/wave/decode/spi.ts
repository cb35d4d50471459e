import type { Recording } from '../recording.ts';
import { digitAt, indexAt, type Trace } from '../trace.ts';
import { byteText, type Frame } from './frame.ts';

export interface SpiSettings {
  /** 0 to 3: bit 1 is the resting level of the clock, bit 0 set takes data at its second edge. (Common practice.) */
  readonly mode: number;
  readonly bits: number;
  readonly lowFirst: boolean;
}

export interface SpiLines {
  readonly clock: Trace;
  /** Low while a word is meant for the chip; null where the chip is always meant. */
  readonly select: Trace | null;
  readonly out: Trace | null;
  readonly in: Trace | null;
}

/** Words of a serial peripheral line, both ways. A word that is left unfinished when the chip is let go is a bad frame. */
export function decodeSpi(recording: Recording, lines: SpiLines, { mode, bits, lowFirst }: SpiSettings): readonly Frame[] {
  const { clock, select } = lines;
  const rests = (mode & 2) !== 0 ? '1' : '0';
  const takesAt = (mode & 1) !== 0 ? rests : rests === '0' ? '1' : '0';
  const ways = ([['out', lines.out], ['in', lines.in]] as const).flatMap(([way, trace]) => (trace ? [{ way, trace, value: 0, unknown: false }] : []));
  const frames: Frame[] = [];
  let [count, from] = [0, 0];
  const give = (to: number, trouble: string | null) => {
    for (const one of ways) {
      frames.push({ from, to, text: one.unknown ? '?' : byteText(one.value, bits), value: one.unknown ? null : one.value, way: one.way, trouble: trouble ?? (one.unknown ? 'a bit is unknown' : null) });
      one.value = 0;
      one.unknown = false;
    }
    count = 0;
  };
  const at = (trace: Trace, tick: number) => {
    const index = indexAt(trace, tick);
    return index < 0 ? 'x' : digitAt(trace, index, 0);
  };
  let selectIndex = select ? indexAt(select, 0) : 0;
  for (let i = 1; i < clock.at.length; i++) {
    const tick = clock.at[i] as number;
    if (select) {
      while (selectIndex + 1 < select.at.length && (select.at[selectIndex + 1] as number) <= tick) {
        selectIndex++;
        if (count > 0 && digitAt(select, selectIndex, 0) !== '0') give(select.at[selectIndex] as number, `let go after ${count} of ${bits} bits`);
      }
      if (selectIndex < 0 || digitAt(select, selectIndex, 0) !== '0') continue;
    }
    if (digitAt(clock, i, 0) !== takesAt) continue;
    if (count === 0) from = tick;
    for (const one of ways) {
      // What changes with the edge is what stood before it.
      const digit = at(one.trace, tick - 1e-6);
      if (digit === '1') one.value += 2 ** (lowFirst ? count : bits - 1 - count);
      else if (digit !== '0') one.unknown = true;
    }
    count++;
    if (count === bits) give(clock.at[i + 1] ?? Math.min(recording.length, tick + 1), null);
  }
  if (count > 0) {
    const letGo = select ? nextHigh(select, selectIndex) : null;
    if (letGo !== null) give(letGo, `let go after ${count} of ${bits} bits`);
  }
  return frames;
}

function nextHigh(select: Trace, index: number): number | null {
  for (let i = index + 1; i < select.at.length; i++) if (digitAt(select, i, 0) !== '0') return select.at[i] as number;
  return null;
}
