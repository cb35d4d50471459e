import type { BenchFile } from './bench-file.ts';
import type { Followed } from './corvane/index.ts';

type Wiring = BenchFile['board']['displays'][number];

const COLUMNS = 16;
const SECOND_ROW = 0x40;
/** Places of one row in its memory; the display shows the first sixteen. */
const ROW_PLACES = 40;
const SHORT_MICROSECONDS = 37;
const LONG_MICROSECONDS = 1520;
const [ENABLE, SELECT] = [1, 2];
const DATA_SHIFT = 2;
const BLANK = 0x20;

/**
 * A display of two rows of sixteen characters on four data bits. With each fall of its enable line it takes half a
 * byte, the upper one first; the select line tells characters (1) from instructions. It begins with eight data bits,
 * four of them wired, until it is told otherwise; while it works at something it takes nothing. (Common practice of
 * such displays: instructions and times from memory.) Characters of one's own are shown as blocks.
 */
export class CharacterDisplay {
  readonly #wiring: Wiring;
  #levels = 0;
  #isFourBits = false;
  /** The upper half, where the lower one is to come. */
  #upper: number | null = null;
  #memory = new Uint8Array(0x80).fill(BLANK);
  #at = 0;
  #step = 1;
  #isOn = false;
  /** What is written goes to the memory for characters of one's own. */
  #isDrawing = false;
  #busyUntil = 0;

  constructor(wiring: Wiring) {
    this.#wiring = wiring;
  }

  get followed(): Followed {
    const { enable, select, data } = this.#wiring;
    return { moving: [enable], carried: [select, ...data] };
  }

  get view(): { readonly name: string; readonly label: string; readonly isOn: boolean; readonly rows: string[] } {
    const { name, label } = this.#wiring;
    const row = (from: number) => Array.from(this.#memory.subarray(from, from + COLUMNS), shown).join('');
    return { name, label: label ?? name, isOn: this.#isOn, rows: [row(0), row(SECOND_ROW)] };
  }

  /** Without supply it forgets everything. */
  goDark(): void {
    this.#isFourBits = this.#isOn = this.#isDrawing = false;
    this.#upper = null;
    this.#step = 1;
    this.#clear();
  }

  moved(at: number, levels: number): void {
    const falls = (this.#levels & ENABLE) === 1 && (levels & ENABLE) === 0;
    this.#levels = levels;
    if (!falls || at < this.#busyUntil) return;
    const half = (levels >>> DATA_SHIFT) & 0xf;
    const isCharacter = (levels & SELECT) !== 0;
    if (!this.#isFourBits) return this.#take(half << 4, isCharacter, at);
    if (this.#upper === null) {
      this.#upper = half;
      return;
    }
    const byte = (this.#upper << 4) | half;
    this.#upper = null;
    this.#take(byte, isCharacter, at);
  }

  #take(byte: number, isCharacter: boolean, at: number): void {
    const isLong = !isCharacter && byte >= 1 && byte <= 3;
    this.#busyUntil = at + (isLong ? LONG_MICROSECONDS : SHORT_MICROSECONDS);
    if (!isCharacter) return this.#instruct(byte);
    if (this.#isDrawing) return;
    this.#memory[this.#at] = byte;
    this.#move(this.#step);
  }

  /** The highest 1 of an instruction says which it is. */
  #instruct(byte: number): void {
    if (byte >= 0x80) {
      this.#at = byte & 0x7f;
      this.#isDrawing = false;
    } else if (byte >= 0x40) this.#isDrawing = true;
    else if (byte >= 0x20) this.#isFourBits = (byte & 0x10) === 0;
    else if (byte >= 0x10) {
      if ((byte & 0x08) === 0) this.#move((byte & 0x04) === 0 ? -1 : 1);
    } else if (byte >= 0x08) this.#isOn = (byte & 0x04) !== 0;
    else if (byte >= 0x04) this.#step = (byte & 0x02) === 0 ? -1 : 1;
    else if (byte >= 0x02) this.#at = 0;
    else if (byte === 0x01) this.#clear();
  }

  #clear(): void {
    this.#memory.fill(BLANK);
    this.#at = 0;
    this.#step = 1;
  }

  /** From the end of one row to the beginning of the other one. */
  #move(by: number): void {
    const [row, place] = [this.#at & SECOND_ROW, this.#at & (SECOND_ROW - 1)];
    const next = place + by;
    if (next >= 0 && next < ROW_PLACES) this.#at = row + next;
    else this.#at = (row ^ SECOND_ROW) + (by > 0 ? 0 : ROW_PLACES - 1);
  }
}

const shown = (code: number): string => (code >= BLANK && code < 0x7f ? String.fromCharCode(code) : '▯');
