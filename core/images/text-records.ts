import { byteAt } from '../lists.ts';
import type { Overlap } from './builder.ts';
import type { ImageProblem } from './image.ts';

const NEWLINE = 0x0a;
const RETURN = 0x0d;
const MOST_RECORD = 256 + 8;
const MOST_PROBLEMS = 200;

/** Value of a hexadecimal digit, 255 for anything else. */
const DIGIT = new Uint8Array(256).fill(255);
for (let i = 0; i < 10; i++) DIGIT[0x30 + i] = i;
for (let i = 0; i < 6; i++) {
  DIGIT[0x41 + i] = 10 + i;
  DIGIT[0x61 + i] = 10 + i;
}

/** What went wrong while records were read; only so many of a kind are kept, so that no warning hides an error. */
export class Complaints {
  readonly list: ImageProblem[] = [];
  readonly #counts = { error: 0, warning: 0 };

  error(line: number, code: string, message: string): void {
    this.#add({ severity: 'error', line, code, message });
  }

  warning(line: number, code: string, message: string): void {
    this.#add({ severity: 'warning', line, code, message });
  }

  overlap({ address, differs, line, firstLine }: Overlap): void {
    this.#add({
      severity: differs ? 'error' : 'warning',
      line,
      code: differs ? 'overlap' : 'overlap-same',
      message:
        `Address ${hex(address, 8)} is given here again, ` +
        `${differs ? 'with other data than' : 'with the same data as'} in line ${firstLine}.`,
    });
  }

  stretches(count: number): void {
    this.error(
      0,
      'stretches',
      `The data lies in ${count.toLocaleString('en')} stretches with gaps between them, more than any memory is ` +
        'filled with: fill the gaps, or give the file in parts.',
    );
  }

  #add(problem: ImageProblem): void {
    const count = this.#counts[problem.severity]++;
    if (count < MOST_PROBLEMS) this.list.push(problem);
  }
}

/**
 * Lines of a file of hexadecimal records, whatever ends them (LF, CR LF or CR). Calls back with where the digits of
 * each begin and end; blanks around them are left out. Empty lines are passed over.
 */
export function forEachLine(file: Uint8Array, take: (from: number, to: number, line: number) => boolean): void {
  let line = 1;
  for (let at = 0; at < file.length; line++) {
    let end = at;
    while (end < file.length && file[end] !== NEWLINE && file[end] !== RETURN) end++;
    let [from, to] = [at, end];
    while (from < to && isBlank(byteAt(file, from))) from++;
    while (to > from && isBlank(byteAt(file, to - 1))) to--;
    if (to > from && !take(from, to, line)) return;
    at = end + (file[end] === RETURN && file[end + 1] === NEWLINE ? 2 : 1);
  }
}

const isBlank = (byte: number): boolean =>
  byte === 0x20 || byte === 0x09 || byte === 0xef || byte === 0xbb || byte === 0xbf || byte === 0;

/**
 * Two digits a byte into `into`; returns how many bytes, or -1 where a character is no digit or one digit is left over.
 */
export function readDigits(file: Uint8Array, from: number, to: number, into: Uint8Array): number {
  const count = (to - from) >> 1;
  if ((to - from) & 1 || count > MOST_RECORD) return -1;
  for (let i = 0, at = from; i < count; i++, at += 2) {
    const high = byteAt(DIGIT, byteAt(file, at));
    const low = byteAt(DIGIT, byteAt(file, at + 1));
    if (high > 15 || low > 15) return -1;
    into[i] = (high << 4) | low;
  }
  return count;
}

export const recordRoom = (): Uint8Array => new Uint8Array(MOST_RECORD);

const HEX = new TextEncoder().encode('0123456789ABCDEF');

/** Writes lines of hexadecimal records into one growing buffer. */
export class RecordWriter {
  #bytes = new Uint8Array(1 << 16);
  #length = 0;

  text(text: string): void {
    this.#room(text.length);
    for (let i = 0; i < text.length; i++) this.#bytes[this.#length++] = text.charCodeAt(i);
  }

  digits(bytes: Uint8Array, from: number, to: number): void {
    this.#room((to - from) * 2);
    for (let i = from; i < to; i++) {
      const byte = byteAt(bytes, i);
      this.#bytes[this.#length++] = byteAt(HEX, byte >> 4);
      this.#bytes[this.#length++] = byteAt(HEX, byte & 15);
    }
  }

  get done(): Uint8Array {
    return this.#bytes.slice(0, this.#length);
  }

  #room(more: number): void {
    if (this.#length + more <= this.#bytes.length) return;
    const bytes = new Uint8Array(Math.max(this.#bytes.length * 2, this.#length + more));
    bytes.set(this.#bytes.subarray(0, this.#length));
    this.#bytes = bytes;
  }
}

export const hex = (value: number, digits = 1): string => `0x${value.toString(16).toUpperCase().padStart(digits, '0')}`;
