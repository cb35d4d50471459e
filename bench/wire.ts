import { getBit, packedLength, setBit } from '../core/bits/index.ts';
import { Chance } from './chance.ts';

/** How uncertain the moment of a level's arrival is, in nanoseconds. */
const JITTER = 1.5;
/** Beyond that many times the jitter a bit is surely right, or surely too late. */
const SURE = 4;

/**
 * The way back from the board: TDO changes on a falling edge of TCK, arrives `delay` nanoseconds later and is sampled
 * on the next rising edge. When half a period is not longer than that, the pod reads the bit before.
 */
export class Wire {
  delay: number;
  #last = 1;
  readonly #chance = new Chance(0x2545f491);

  constructor(delay: number) {
    this.delay = delay;
  }

  /** What the pod reads of `count` bits that the board sends at a frequency in hertz. */
  sample(bits: Uint8Array, count: number, hz: number): Uint8Array {
    const margin = (0.5e9 / hz - this.delay) / JITTER;
    if (margin >= SURE) {
      if (count > 0) this.#last = getBit(bits, count - 1);
      return bits;
    }
    const late = margin <= -SURE ? 1 : 1 - normal(margin);
    const out = new Uint8Array(packedLength(count));
    for (let i = 0; i < count; i++) {
      const sent = getBit(bits, i);
      if (this.#chance.next() < late ? this.#last : sent) setBit(out, i, 1);
      this.#last = sent;
    }
    return out;
  }
}

/** Share of a normal distribution below `x` deviations. @source Abramowitz and Stegun, 26.2.17 (value from memory) */
function normal(x: number): number {
  const t = 1 / (1 + 0.2316419 * Math.abs(x));
  const tail =
    (Math.exp((-x * x) / 2) / Math.sqrt(2 * Math.PI)) *
    t *
    (0.31938153 + t * (-0.356563782 + t * (1.781477937 + t * (-1.821255978 + t * 1.330274429))));
  return x >= 0 ? 1 - tail : tail;
}
