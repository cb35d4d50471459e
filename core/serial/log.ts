import type { SerialTrouble } from './receiver.ts';

/** Lines that are kept. */
export const MOST_LINES = 100_000;
/** What never ends its line is divided. */
const LONGEST_LINE = 256;
/** Bytes of all lines together. */
const MOST_BYTES = 16 << 20;
/** As many go at once: to move all others for each one would tell. */
const CUT_LINES = 1000;
const CUT_BYTES = 1 << 18;
const [LF, CR] = [0x0a, 0x0d];

/** One line of what was said. */
export interface LogLine {
  /** Counts from 1, and is never used again. */
  readonly number: number;
  /** When its first byte began, in milliseconds since 1970. */
  readonly at: number;
  /** From the board, to it, or something that happened meanwhile, said by this product. */
  readonly way: 'in' | 'out' | 'note';
  /** With what ended it. */
  readonly bytes: Uint8Array;
  /** Frames with something wrong: which byte, and what. */
  readonly troubles: readonly { readonly index: number; readonly trouble: SerialTrouble }[];
}

interface OpenLine extends Omit<LogLine, 'bytes'> {
  readonly bytes: number[];
  readonly troubles: { readonly index: number; readonly trouble: SerialTrouble }[];
}

/** A byte as it came; `at` in milliseconds since 1970. */
interface HeardByte {
  readonly at: number;
  readonly value: number;
  readonly trouble: SerialTrouble | null;
}

/**
 * What was said on a line, as lines. A line ends behind LF, behind a CR that no LF follows, where the other side
 * speaks, and where it grows too long. The oldest ones make room.
 */
export class LineLog {
  #lines: LogLine[] = [];
  /** The last line, as long as it goes on. */
  #open: OpenLine | null = null;
  #next = 1;
  #bytes = 0;
  /** Bytes that came and went since it was begun. */
  received = 0;
  sent = 0;
  wrong = 0;

  /** Number of the first line that is still kept, and of the last one; 1 and 0 while there is none. */
  get first(): number {
    return this.#next - this.#lines.length - (this.#open ? 1 : 0);
  }

  get last(): number {
    return this.#next - 1;
  }

  /** Lines from a number on; the last one may still go on. */
  linesFrom(number: number, most: number): readonly LogLine[] {
    const at = Math.max(0, number - this.first);
    const closed = this.#lines.slice(at, at + most);
    const isInside = this.#open !== null && closed.length < most && at <= this.#lines.length;
    return isInside && this.#open ? [...closed, closedOf(this.#open)] : closed;
  }

  heard(bytes: readonly HeardByte[]): void {
    this.received += bytes.length;
    for (const byte of bytes) this.#take('in', byte);
  }

  said(bytes: Uint8Array, at: number): void {
    this.sent += bytes.length;
    for (const value of bytes) this.#take('out', { at, value, trouble: null });
  }

  note(text: string, at: number): void {
    this.#begin('note', at).bytes.push(...new TextEncoder().encode(text));
    this.#close();
  }

  clear(): void {
    this.#lines = [];
    this.#open = null;
    this.#bytes = 0;
    this.received = this.sent = this.wrong = 0;
  }

  #take(way: 'in' | 'out', { at, value, trouble }: HeardByte): void {
    const open = this.#open;
    const goesOn = open?.way === way && open.bytes.length < LONGEST_LINE && (open.bytes.at(-1) !== CR || value === LF);
    const line = goesOn ? open : this.#begin(way, at);
    if (trouble !== null) {
      line.troubles.push({ index: line.bytes.length, trouble });
      this.wrong++;
    }
    line.bytes.push(value);
    if (value === LF) this.#close();
  }

  #begin(way: LogLine['way'], at: number): OpenLine {
    this.#close();
    this.#open = { number: this.#next++, at, way, bytes: [], troubles: [] };
    return this.#open;
  }

  #close(): void {
    if (!this.#open) return;
    this.#lines.push(closedOf(this.#open));
    this.#bytes += this.#open.bytes.length;
    this.#open = null;
    if (this.#lines.length < MOST_LINES + CUT_LINES && this.#bytes <= MOST_BYTES) return;
    let gone = 0;
    while (this.#lines.length - gone >= MOST_LINES || this.#bytes > MOST_BYTES - CUT_BYTES)
      this.#bytes -= this.#lines[gone++]?.bytes.length ?? 0;
    this.#lines.splice(0, gone);
  }
}

const closedOf = (line: OpenLine): LogLine => ({ ...line, bytes: Uint8Array.from(line.bytes) });
