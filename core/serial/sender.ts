import { frameBits } from './frame.ts';
import type { SerialSettings } from './settings.ts';

interface Change {
  readonly at: number;
  readonly level: boolean;
}

const RESTS = Number.POSITIVE_INFINITY;

/** Levels out of bytes, one frame after the other, each change at its time. Times in any unit, and only go on. */
export class SerialSender {
  #settings: SerialSettings;
  #bit: number;
  #bytes: number[] = [];
  #at = 0;
  /** Of the frame on its way, those to come; the last one's time is the frame's end. */
  #changes: Change[] = [];
  #end = 0;
  #level = true;
  /** How long the line is to be held at 0 before anything else is sent. */
  #break = 0;

  constructor(settings: SerialSettings, bitTime: number) {
    this.#settings = settings;
    this.#bit = bitTime;
  }

  /** From the next frame on. */
  become(settings: SerialSettings, bitTime: number): void {
    this.#settings = settings;
    this.#bit = bitTime;
  }

  /** Bytes that have not begun to leave. */
  get queued(): number {
    return this.#bytes.length - this.#at;
  }

  get level(): boolean {
    return this.#level;
  }

  queue(bytes: Iterable<number>): void {
    for (const byte of bytes) this.#bytes.push(byte);
  }

  /** Holds the line at 0 for a time, once the frame on its way has left. */
  holdLow(time: number): void {
    this.#break = time;
  }

  /** Forgets what has not begun to leave. */
  drop(): void {
    this.#bytes = [];
    this.#at = 0;
  }

  /** When something is due; infinity while there is nothing to send, or it may not begin. */
  due(mayBegin: boolean): number {
    const [next] = this.#changes;
    if (next) return next.at;
    return this.#break > 0 || (mayBegin && this.queued > 0) ? this.#end : RESTS;
  }

  /** Makes all changes up to a time, each told with its own. */
  advance(now: number, mayBegin: boolean, change: (level: boolean, at: number) => void): void {
    for (;;) {
      for (let next = this.#changes[0]; next && next.at <= now; next = this.#changes[0]) {
        this.#changes.shift();
        this.#level = next.level;
        change(next.level, next.at);
      }
      if (this.#changes.length > 0 || this.#end > now) return;
      if (this.#break > 0) this.#begin(now, [0, 1], this.#break);
      else if (mayBegin && this.queued > 0) this.#begin(now, frameBits(this.#next(), this.#settings), this.#bit);
      else return;
    }
  }

  #next(): number {
    const byte = this.#bytes[this.#at++] ?? 0;
    if (this.#at > 4096) {
      this.#bytes = this.#bytes.slice(this.#at);
      this.#at = 0;
    }
    return byte;
  }

  /** What follows without a pause begins when the last one ended, not when somebody looked. */
  #begin(now: number, bits: readonly number[], bitTime: number): void {
    const isRow = now - this.#end < bitTime;
    const start = isRow ? this.#end : now;
    let level = true;
    for (const [i, bit] of bits.entries()) {
      if ((bit === 1) === level) continue;
      level = bit === 1;
      this.#changes.push({ at: start + i * bitTime, level });
    }
    this.#end = start + bits.length * bitTime;
    this.#break = 0;
  }
}
