import { floatAt } from '../../lists.ts';
import type { Recording } from '../recording.ts';
import { digitAt, indexAt, type Trace } from '../trace.ts';
import { BEGAN_BEFORE, byteText, type Frame } from './frame.ts';

/**
 * Frames of a two-wire line: data moves while the clock is low; a data edge while it is high is a start (fall) or a
 * stop (rise); eight bits, highest first, then an acknowledge, 0 for yes; the first byte after a start is an address of
 * seven bits and the direction, 1 for reading. (Common practice.)
 */
export function decodeI2c(recording: Recording, clock: Trace, data: Trace): readonly Frame[] {
  const frames: Frame[] = [];
  let bits: number[] = [];
  let [isOpen, isAddress, from] = [false, false, 0];
  let [c, d] = [0, 0];
  // A byte that was on its way when the lines became known is marked, not read.
  let unseen: number | null = clock.at.length > 0 && data.at.length > 0 ? 0 : null;
  const level = (trace: Trace, index: number) => (index < 0 ? 'x' : digitAt(trace, index, 0));
  const lose = (tick: number) => {
    if (bits.length > 0)
      frames.push({ from, to: tick, text: 'broken', value: null, trouble: 'the record has a gap in it' });
    [isOpen, bits, unseen] = [false, [], tick];
  };
  const seen = (tick: number) => {
    if (unseen !== null && clockedBetween(clock, unseen, tick))
      frames.push({ from: unseen, to: tick, text: '?', value: null, trouble: BEGAN_BEFORE });
    unseen = null;
  };
  while (c + 1 < clock.at.length || d + 1 < data.at.length) {
    const nextClock = clock.at[c + 1] ?? Number.POSITIVE_INFINITY;
    const nextData = data.at[d + 1] ?? Number.POSITIVE_INFINITY;
    const tick = Math.min(nextClock, nextData);
    // Both at one sample: data that moves with the falling clock belongs to the next bit, with the rising one to the
    // last.
    if (nextClock === tick) {
      c++;
      if (level(clock, c) === 'x') lose(tick);
      if (level(clock, c) !== '1' || level(clock, c - 1) !== '0' || !isOpen) {
        if (nextData === tick) d++;
        continue;
      }
      if (bits.length === 0) from = tick;
      bits.push(level(data, d) === '1' ? 1 : 0);
      if (nextData === tick) d++;
      if (bits.length === 9) {
        const value = bits.slice(0, 8).reduce((sum, bit) => sum * 2 + bit, 0);
        const to = clock.at[c + 1] ?? recording.length;
        const refused = bits[8] === 1;
        frames.push({
          from,
          to,
          text: isAddress
            ? `${byteText(value >> 1, 7)} ${value & 1 ? 'read' : 'write'}${refused ? ' refused' : ''}`
            : `${byteText(value)}${refused ? ' last' : ''}`,
          value: isAddress ? value >> 1 : value,
          trouble: refused && isAddress ? 'nobody acknowledged the address' : null,
        });
        bits = [];
        isAddress = false;
      }
      continue;
    }
    d++;
    if (level(data, d) === 'x') lose(tick);
    if (level(clock, c) !== '1') continue;
    const [was, is] = [level(data, d - 1), level(data, d)];
    if (was === '1' && is === '0') {
      seen(tick);
      if (bits.length > 1)
        frames.push({
          from,
          to: tick,
          text: 'broken',
          value: null,
          trouble: `start after ${bits.length - 1} of 8 bits`,
        });
      frames.push({ from: tick, to: tick + 1, text: 'start', value: null, trouble: null });
      [isOpen, isAddress, bits] = [true, true, []];
    } else if (was === '0' && is === '1' && !isOpen) seen(tick);
    else if (was === '0' && is === '1') {
      // The clock has risen once more for the stop itself.
      if (bits.length > 1)
        frames.push({
          from,
          to: tick,
          text: 'broken',
          value: null,
          trouble: `stop after ${bits.length - 1} of 8 bits`,
        });
      frames.push({ from: tick, to: tick + 1, text: 'stop', value: null, trouble: null });
      [isOpen, bits] = [false, []];
    }
  }
  return frames;
}

/** Whether a line rose between two places. */
function clockedBetween(clock: Trace, from: number, to: number): boolean {
  for (let i = Math.max(0, indexAt(clock, from)); i + 1 < clock.at.length && floatAt(clock.at, i + 1) < to; i++)
    if (digitAt(clock, i, 0) === '0' && digitAt(clock, i + 1, 0) === '1') return true;
  return false;
}
