import { floatAt } from '../../lists.ts';
import type { Recording } from '../recording.ts';
import { digitAt, indexAt, type Trace } from '../trace.ts';
import { BEGAN_BEFORE, byteText, type Frame } from './frame.ts';

interface SpiSettings {
  /** 0 to 3: bit 1 is the resting level of the clock, bit 0 set takes data at its second edge. (Common practice.) */
  readonly mode: number;
  readonly bits: number;
  readonly lowFirst: boolean;
}

interface SpiLines {
  readonly clock: Trace;
  /** Low while a word is meant for the chip; null where the chip is always meant. */
  readonly select: Trace | null;
  readonly out: Trace | null;
  readonly in: Trace | null;
}

/**
 * Words of a serial peripheral line, both ways. A word that is left unfinished when the chip is let go is a bad frame.
 */
export function decodeSpi(
  recording: Recording,
  lines: SpiLines,
  { mode, bits, lowFirst }: SpiSettings,
): readonly Frame[] {
  const { clock, select } = lines;
  const rests = (mode & 2) !== 0 ? '1' : '0';
  const takesAt = (mode & 1) !== 0 ? rests : rests === '0' ? '1' : '0';
  const ways = (
    [
      ['out', lines.out],
      ['in', lines.in],
    ] as const
  ).flatMap(([way, trace]) => (trace ? [{ way, trace, value: 0, unknown: false }] : []));
  const frames: Frame[] = [];
  let [count, from] = [0, 0];
  // Where a word begins is known from the fall of the select line, or, without one, from a clock at rest.
  let isPlaced = select === null ? clock.at.length > 0 && digitAt(clock, 0, 0) === rests : true;
  const give = (to: number, trouble: string | null) => {
    for (const one of ways) {
      const isKnown = !one.unknown && isPlaced;
      frames.push({
        from,
        to,
        text: isKnown ? byteText(one.value, bits) : '?',
        value: isKnown ? one.value : null,
        way: one.way,
        trouble: trouble ?? (isPlaced ? (one.unknown ? 'a bit is unknown' : null) : BEGAN_BEFORE),
      });
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
  if (select && (selectIndex < 0 || digitAt(select, selectIndex, 0) === '0')) isPlaced = false;
  for (let i = 1; i < clock.at.length; i++) {
    const tick = floatAt(clock.at, i);
    if (select) {
      while (selectIndex + 1 < select.at.length && floatAt(select.at, selectIndex + 1) <= tick) {
        selectIndex++;
        const level = digitAt(select, selectIndex, 0);
        if (count > 0 && level !== '0')
          give(floatAt(select.at, selectIndex), level === '1' ? `let go after ${count} of ${bits} bits` : LOST);
        if (level === '0') isPlaced = selectIndex > 0 && digitAt(select, selectIndex - 1, 0) === '1';
      }
      if (selectIndex < 0 || digitAt(select, selectIndex, 0) !== '0') continue;
    }
    const level = digitAt(clock, i, 0);
    if (level !== '0' && level !== '1') {
      if (count > 0) give(tick, LOST);
      isPlaced = false;
      continue;
    }
    if (!select && !isPlaced && level === rests && count === 0 && !isLevel(clock, i - 1)) isPlaced = true;
    if (level !== takesAt || !isLevel(clock, i - 1)) continue;
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
    if (letGo !== null)
      give(
        letGo,
        digitAt(select as Trace, indexAt(select as Trace, letGo), 0) !== '1'
          ? LOST
          : `let go after ${count} of ${bits} bits`,
      );
  }
  return frames;
}

const LOST = 'the record has a gap in it';

const isLevel = (trace: Trace, index: number): boolean => {
  const digit = index < 0 ? 'x' : digitAt(trace, index, 0);
  return digit === '0' || digit === '1';
};

function nextHigh(select: Trace, index: number): number | null {
  for (let i = index + 1; i < select.at.length; i++) if (digitAt(select, i, 0) !== '0') return floatAt(select.at, i);
  return null;
}
