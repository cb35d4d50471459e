/** The lines of the converter as it sees them. */
interface Lines {
  readonly clock: boolean;
  /** Low while it is meant. */
  readonly select: boolean;
  readonly in: boolean;
}

const FRAME_BITS = 16;
/** It wants to be selected this long before the first clock; until then it need not be looked at often. */
const IDLE_MICROSECONDS = 30;
/**
 * While clocks come: a look in each half of one of 625 kHz, and soon enough for its bit to be there before the next
 * rise.
 */
const BUSY_MICROSECONDS = 0.55;
/** From the moment it sees that it is selected until the first clock can come. */
const READY_MICROSECONDS = 18;

/**
 * A level converter on SPI, mode 0: takes a bit at each rise of the clock, moves its own at each fall. The first bit of
 * a frame says which of two sensors; its reading leaves in the last twelve bits, highest first, in centimetres.
 */
export class LevelConverter {
  readonly #read: (channel: 0 | 1) => number;
  #last: Lines = { clock: false, select: true, in: false };
  #bits = 0;
  #value = 0;
  #out = false;
  /** It has just been selected. */
  #isFirst = false;

  constructor(read: (channel: 0 | 1) => number) {
    this.#read = read;
  }

  /** Its output; null while it is not selected. */
  get out(): boolean | null {
    return this.#last.select ? null : this.#out;
  }

  /** After so many microseconds it has to see its lines again. */
  get patience(): number {
    if (this.#last.select || this.#bits === FRAME_BITS) return IDLE_MICROSECONDS;
    return this.#isFirst ? READY_MICROSECONDS : BUSY_MICROSECONDS;
  }

  look(lines: Lines): void {
    const last = this.#last;
    this.#last = lines;
    this.#isFirst = last.select && !lines.select;
    if (lines.select) {
      this.#bits = 0;
      this.#out = false;
      return;
    }
    if (lines.clock && !last.clock) {
      if (this.#bits === 0) this.#value = Math.min(0xfff, Math.max(0, Math.round(this.#read(lines.in ? 1 : 0))));
      this.#bits++;
    }
    if (!lines.clock && last.clock) this.#out = ((this.#value >> (FRAME_BITS - 1 - this.#bits)) & 1) === 1;
  }
}
