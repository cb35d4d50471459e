import { parityOf } from './frame.ts';
import type { SerialSettings } from './settings.ts';

/** What a frame has wrong: no stop bit, a parity bit that does not fit, or a line that stays at 0 for all of it. */
export type SerialTrouble = 'framing' | 'parity' | 'break';

/** `at`: when its start bit began, in the unit of the receiver's times. */
export interface SerialFrame {
  readonly at: number;
  readonly value: number;
  readonly trouble: SerialTrouble | null;
}

const RESTS = Number.POSITIVE_INFINITY;

/**
 * Frames out of a line's levels: each bit is looked at in its middle, counted from the fall of the start bit; of the
 * stop bits the first is looked at. After a frame without one, the line has to be at 1 before another can begin. Times
 * are in any unit, and only go on. (Common practice of asynchronous frames.)
 */
export class SerialReceiver {
  readonly #settings: SerialSettings;
  readonly #bit: number;
  /** Bits that are looked at: start, data, parity and one stop. */
  readonly #looks: number;
  #level: boolean;
  /** When the frame began that is on its way; null between frames. */
  #start: number | null = null;
  /** Levels found in it so far. */
  #found: number[] = [];

  /** `bitTime` in the unit of all times. */
  constructor(settings: SerialSettings, bitTime: number, level = true) {
    this.#settings = settings;
    this.#bit = bitTime;
    this.#looks = settings.dataBits + (settings.parity === 'none' ? 2 : 3);
    this.#level = level;
  }

  /** When the frame on its way is whole; infinity between frames. */
  get due(): number {
    return this.#start === null ? RESTS : this.#start + (this.#looks - 0.5) * this.#bit;
  }

  /** The line changes to a level; gives the frame that ended before, if one did. */
  edge(at: number, level: boolean): SerialFrame | null {
    const frame = this.passed(at);
    if (this.#level && !level && this.#start === null) this.#start = at;
    this.#level = level;
    return frame;
  }

  /** Nothing has changed up to a time; gives the frame that ended meanwhile, if one did. */
  passed(now: number): SerialFrame | null {
    if (this.#start === null) return null;
    while (this.#start + (this.#found.length + 0.5) * this.#bit <= now) {
      // A start bit that is over before its middle was a disturbance.
      if (this.#found.length === 0 && this.#level) return this.#rest();
      this.#found.push(this.#level ? 1 : 0);
      if (this.#found.length === this.#looks) {
        const frame = this.#frame(this.#start);
        this.#rest();
        return frame;
      }
    }
    return null;
  }

  #rest(): null {
    this.#start = null;
    this.#found = [];
    return null;
  }

  #frame(at: number): SerialFrame {
    const { dataBits, parity } = this.#settings;
    const data = this.#found.slice(1, 1 + dataBits);
    const value = data.reduce((sum, bit, i) => sum | (bit << i), 0);
    const hasStop = this.#found[this.#looks - 1] === 1;
    const isParityRight = parity === 'none' || this.#found[1 + dataBits] === parityOf(data, parity);
    const trouble = hasStop
      ? isParityRight
        ? null
        : 'parity'
      : this.#found.every((bit) => bit === 0)
        ? 'break'
        : 'framing';
    return { at, value, trouble };
  }
}
