/** Chance that comes out the same every time a bench is set up. (xorshift, 32 bits.) */
export class Chance {
  #state: number;

  constructor(seed: number) {
    this.#state = seed;
  }

  /** From 0 up to, not including, 1. */
  next(): number {
    this.#state ^= this.#state << 13;
    this.#state ^= this.#state >>> 17;
    this.#state ^= this.#state << 5;
    return (this.#state >>> 0) / 2 ** 32;
  }
}
