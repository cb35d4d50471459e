// Words of a simulator's memory that are looked at again and again: which of them are others than before.

/** A stretch of words, and what stood there when it was looked at last. */
export class Span {
  readonly #words: Int32Array;
  readonly #from: number;
  readonly #last: Int32Array;
  /** Whose each word is; -1 for nobody's. */
  readonly #owners: Int32Array;
  readonly #isMarked: Uint8Array;
  /** Owners of words that were others when it was looked at last. */
  readonly dirty: number[] = [];
  #isNew = true;

  constructor(words: Int32Array, places: readonly (readonly [from: number, count: number])[]) {
    this.#words = words;
    const first = places.reduce((least, [from]) => Math.min(least, from), Number.POSITIVE_INFINITY);
    const end = places.reduce((most, [from, count]) => Math.max(most, from + count), 0);
    this.#from = Number.isFinite(first) ? first : 0;
    this.#last = new Int32Array(Math.max(0, end - this.#from));
    this.#owners = new Int32Array(this.#last.length).fill(-1);
    this.#isMarked = new Uint8Array(places.length);
    for (const [owner, [from, count]] of places.entries())
      for (let k = 0; k < count; k++) this.#owners[from - this.#from + k] = owner;
  }

  /** Looks again; at the first time everything is new. */
  look(): boolean {
    const words = this.#words;
    const last = this.#last;
    const from = this.#from;
    const owners = this.#owners;
    const isMarked = this.#isMarked;
    const dirty = this.dirty;
    for (let i = 0; i < dirty.length; i++) isMarked[dirty[i] ?? 0] = 0;
    dirty.length = 0;
    const isNew = this.#isNew;
    const { length } = last;
    for (let i = 0; i < length; i++) {
      const word = words[from + i] ?? 0;
      if (last[i] === word && !isNew) continue;
      last[i] = word;
      const owner = owners[i] ?? -1;
      if (owner < 0 || isMarked[owner] === 1) continue;
      isMarked[owner] = 1;
      dirty.push(owner);
    }
    this.#isNew = false;
    return dirty.length > 0;
  }

  /** Everything is new at the next look. */
  renew(): void {
    this.#isNew = true;
  }
}
