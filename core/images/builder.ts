import { byteAt, floatAt, wordAt } from '../lists.ts';
import type { MemoryImage } from './image.ts';

/** Stretches with gaps between them. A memory file has a few; a file that is all gaps is none that was meant. */
const MOST_STRETCHES = 1 << 16;
/** Overlaps that are told with their lines; behind them only the ones with other data. */
const MOST_OVERLAPS = 200;

/** Bytes that are given twice: the first address at which that was seen, and the lines that give it. */
export interface Overlap {
  readonly address: number;
  readonly differs: boolean;
  readonly line: number;
  readonly firstLine: number;
}

interface Built {
  readonly image: MemoryImage;
  readonly overlaps: readonly Overlap[];
  /** How many stretches there are, where they are more than are taken; the image is empty then. */
  readonly tooMany: number | null;
}

/** Numbers in a typed array that grows: a file of short records has millions. */
class Numbers {
  #values = new Float64Array(256);
  length = 0;

  push(value: number): void {
    if (this.length === this.#values.length) {
      const more = new Float64Array(this.length * 2);
      more.set(this.#values);
      this.#values = more;
    }
    this.#values[this.length++] = value;
  }

  at(i: number): number {
    return floatAt(this.#values, i);
  }
}

/**
 * Collects records that mostly follow each other, and tells of bytes that are given twice. A run is records that each
 * begin where the one before ended.
 */
export class ImageBuilder {
  #data = new Uint8Array(1 << 12);
  #length = 0;
  /** Of each record: where it begins in the data, and in which line of the file it stands. */
  readonly #recordFrom = new Numbers();
  readonly #recordLine = new Numbers();
  /** Of each run: its address, and where it begins in the data. */
  readonly #start = new Numbers();
  readonly #from = new Numbers();
  #next = -1;

  add(address: number, source: Uint8Array, from: number, count: number, line: number): void {
    if (this.#length + count > this.#data.length) {
      const more = new Uint8Array(Math.max(this.#data.length * 2, this.#length + count));
      more.set(this.#data.subarray(0, this.#length));
      this.#data = more;
    }
    if (address !== this.#next) {
      this.#start.push(address);
      this.#from.push(this.#length);
    }
    this.#recordFrom.push(this.#length);
    this.#recordLine.push(line);
    this.#data.set(source.subarray(from, from + count), this.#length);
    this.#length += count;
    this.#next = address + count;
  }

  /**
   * Overlaps of a later stretch with earlier ones; where the later bytes are others, the first that is. The later ones
   * win.
   */
  finish(): Built {
    const order = this.#byAddress();
    const groups = this.#groups(order);
    if (groups.length > MOST_STRETCHES) return { image: { segments: [] }, overlaps: [], tooMany: groups.length };
    const overlaps: Overlap[] = [];
    const segments = groups
      .map(({ from, to, start, end }) => ({
        start,
        bytes: this.#merged(order.subarray(from, to).sort(), start, end, overlaps),
      }))
      .filter(({ bytes }) => bytes.length > 0);
    return { image: { segments }, overlaps, tooMany: null };
  }

  #lengthOf(run: number): number {
    return (run + 1 < this.#from.length ? this.#from.at(run + 1) : this.#length) - this.#from.at(run);
  }

  #byAddress(): Uint32Array {
    const order = Uint32Array.from({ length: this.#start.length }, (_, i) => i);
    let isAscending = true;
    for (let i = 1; i < order.length && isAscending; i++) isAscending = this.#start.at(i - 1) <= this.#start.at(i);
    return isAscending ? order : order.sort((a, b) => this.#start.at(a) - this.#start.at(b) || a - b);
  }

  /** Runs that touch or overlap, as places in `order`. */
  #groups(order: Uint32Array) {
    const groups: { from: number; to: number; start: number; end: number }[] = [];
    let last: (typeof groups)[number] | undefined;
    for (let i = 0; i < order.length; i++) {
      const run = wordAt(order, i);
      const start = this.#start.at(run);
      const end = start + this.#lengthOf(run);
      if (last && start <= last.end) {
        last.end = Math.max(last.end, end);
        last.to = i + 1;
      } else {
        last = { from: i, to: i + 1, start, end };
        groups.push(last);
      }
    }
    return groups;
  }

  /** Runs in the order of the file, laid over each other. */
  #merged(runs: Uint32Array, start: number, end: number, overlaps: Overlap[]): Uint8Array {
    const bytes = new Uint8Array(end - start);
    const known = runs.length > 1 ? new Uint8Array(end - start) : null;
    for (const [nth, run] of runs.entries()) {
      const at = this.#start.at(run) - start;
      const data = this.#data.subarray(this.#from.at(run), this.#from.at(run) + this.#lengthOf(run));
      if (known) {
        const [twice, other] = firstOverlap(data, known, bytes, at);
        const found = other >= 0 ? other : twice;
        const isTold = overlaps.length < MOST_OVERLAPS || (other >= 0 && overlaps.length < 2 * MOST_OVERLAPS);
        if (found >= 0 && isTold)
          overlaps.push({
            address: start + at + found,
            differs: other >= 0,
            line: this.#lineAt(this.#from.at(run) + found),
            firstLine: this.#lineOf(runs.subarray(0, nth), start + at + found),
          });
        known.fill(1, at, at + data.length);
      }
      bytes.set(data, at);
    }
    return bytes;
  }

  /** Line of the record that holds this byte of the data. */
  #lineAt(place: number): number {
    let [low, high] = [0, this.#recordFrom.length];
    while (low < high) {
      const middle = (low + high) >>> 1;
      if (this.#recordFrom.at(middle) <= place) low = middle + 1;
      else high = middle;
    }
    return low > 0 ? this.#recordLine.at(low - 1) : 0;
  }

  /** Line of the last of these runs that gives an address. */
  #lineOf(runs: Uint32Array, address: number): number {
    for (let i = runs.length - 1; i >= 0; i--) {
      const run = wordAt(runs, i);
      const into = address - this.#start.at(run);
      if (into >= 0 && into < this.#lengthOf(run)) return this.#lineAt(this.#from.at(run) + into);
    }
    return 0;
  }
}

/** Places in a run of the first byte that is known already, and of the first that is known as another; -1 for none. */
function firstOverlap(
  run: Uint8Array,
  known: Uint8Array,
  bytes: Uint8Array,
  at: number,
): readonly [twice: number, other: number] {
  let twice = -1;
  for (let k = 0; k < run.length; k++) {
    if (byteAt(known, at + k) === 0) continue;
    if (twice < 0) twice = k;
    if (byteAt(bytes, at + k) !== byteAt(run, k)) return [twice, k];
  }
  return [twice, -1];
}
