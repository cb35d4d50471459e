// Cable operations as bodies of frames, and what comes back as captured bits. docs/wire.md, section 4
import type { CableOp } from '../../core/jtag/index.ts';

const COMMAND = { tms: 0, shift: 1, clock: 2, wait: 3, pin: 4, rate: 5, measure: 6, line: 7 } as const;
const FLAG = { capture: 1, exit: 2, zeros: 4, ones: 8 } as const;
const MOST_TMS = 32;
const MOST_SHIFT_BITS = 0xffff;
const MOST_LINE_BYTES = 31;
const SHIFT_HEAD_BYTES = 3;

const PINS = { jtag: 0, trst: 1, srst: 2, reconfigure: 3, power: 4, line: 5 } as const;
const LEVELS = { low: 0, high: 1, letGo: 2 } as const;

/** A command of its own. `answer`: bytes that come back. */
export interface Command {
  readonly bytes: Uint8Array;
  readonly answer: number;
}

/** A body of one frame, and how many bytes come back for it. */
export interface Body {
  readonly bytes: Uint8Array;
  readonly answer: number;
}

const head = (command: keyof typeof COMMAND, detail = 0): number => (COMMAND[command] << 5) | detail;

const number4 = (value: number): number[] => [0, 8, 16, 24].map((by) => (value >>> by) & 0xff);

export const pinCommand = (pin: keyof typeof PINS, level: keyof typeof LEVELS): Command => ({
  bytes: Uint8Array.of(head('pin', PINS[pin]), LEVELS[level]),
  answer: 0,
});

export const waitCommand = (microseconds: number): Command => ({
  bytes: Uint8Array.of(head('wait'), ...number4(Math.ceil(microseconds))),
  answer: 0,
});

export const rateCommand = (hz: number): Command => ({
  bytes: Uint8Array.of(head('rate'), ...number4(Math.min(0xffffffff, Math.floor(hz)))),
  answer: 4,
});

export const measureCommand: Command = { bytes: Uint8Array.of(head('measure')), answer: 2 };

export const lineSetCommand = (rate: number, form: number): Command => ({
  bytes: Uint8Array.of(head('line'), ...number4(Math.round(rate)), form),
  answer: 4,
});

/** At most 31 bytes of them. */
export const lineSendCommand = (bytes: Uint8Array): Command => {
  const some = bytes.subarray(0, MOST_LINE_BYTES);
  return { bytes: Uint8Array.of(head('line', some.length), ...some), answer: 1 };
};

/** Room of one frame. */
interface Room {
  readonly body: number;
  readonly answer: number;
}

/** A batch as bodies of frames. `captures` has the bits of each shift that captures, in order. */
interface Work {
  readonly bodies: readonly Body[];
  readonly captures: readonly number[];
}

/**
 * Packs operations into as few frames as they fit. A long scan is cut at whole bytes: with TMS 0 the TAP stays where it
 * is (IEEE 1149.1, figure 6-1). Bits that come back begin a byte of their own in each piece.
 */
export function workOf(ops: readonly CableOp[], room: Room): Work {
  const packer = new Packer(room);
  const captures: number[] = [];
  for (const op of ops) {
    if (op.kind === 'tms') {
      for (let at = 0; at < op.count; at += MOST_TMS) {
        const count = Math.min(MOST_TMS, op.count - at);
        const tms = op.tms.subarray(at >> 3, (at + count + 7) >> 3);
        packer.add({ bytes: Uint8Array.of(head('tms', count - 1), ...tms), answer: 0 });
      }
    } else if (op.kind === 'shift') {
      if (op.capture) captures.push(op.count);
      if (op.count > 0) packer.shift(op);
    } else if (op.kind === 'clock') {
      if (op.count > 0) packer.add({ bytes: Uint8Array.of(head('clock'), ...number4(op.count)), answer: 0 });
    } else if (op.kind === 'wait') {
      if (op.microseconds > 0) packer.add(waitCommand(op.microseconds));
    } else packer.add(pinCommand('trst', op.asserted ? 'low' : 'letGo'));
  }
  return { bodies: packer.done(), captures };
}

type Shift = Extract<CableOp, { kind: 'shift' }>;

class Packer {
  readonly #room: Room;
  readonly #bodies: Body[] = [];
  #open: Uint8Array[] = [];
  #size = 0;
  #answer = 0;

  constructor(room: Room) {
    this.#room = room;
  }

  add({ bytes, answer }: Command): void {
    if (this.#size + bytes.length > this.#room.body || this.#answer + answer > this.#room.answer) this.#close();
    this.#open.push(bytes);
    this.#size += bytes.length;
    this.#answer += answer;
  }

  shift({ count, tdi, capture, exit }: Shift): void {
    const constant = sameByte(tdi, count);
    for (let at = 0; at < count; ) {
      const most = this.#fitting(constant === null, capture);
      const now = Math.min(count - at, most);
      const isLast = at + now === count;
      const bytes = (now + 7) >> 3;
      const flags =
        (capture ? FLAG.capture : 0) |
        (exit && isLast ? FLAG.exit : 0) |
        (constant === null ? 0 : constant === 0 ? FLAG.zeros : FLAG.ones);
      const start = [head('shift', flags), now & 0xff, now >> 8];
      const data = constant === null ? tdi.subarray(at >> 3, (at >> 3) + bytes) : new Uint8Array(0);
      const command = new Uint8Array(SHIFT_HEAD_BYTES + data.length);
      command.set(start);
      command.set(data, SHIFT_HEAD_BYTES);
      this.add({ bytes: command, answer: capture ? bytes : 0 });
      at += now;
    }
  }

  /** Bits that the open frame still takes, a multiple of 8; those of a whole one where it takes too few. */
  #fitting(carries: boolean, capture: boolean): number {
    const left = (body: number, answer: number) => {
      const given = carries ? body - SHIFT_HEAD_BYTES : body < SHIFT_HEAD_BYTES ? 0 : Number.POSITIVE_INFINITY;
      return Math.min(given, capture ? answer : Number.POSITIVE_INFINITY, MOST_SHIFT_BITS >> 3) * 8;
    };
    const here = left(this.#room.body - this.#size, this.#room.answer - this.#answer);
    return here >= LEAST_PIECE_BITS ? here : left(this.#room.body, this.#room.answer);
  }

  #close(): void {
    if (this.#size === 0) return;
    const bytes = new Uint8Array(this.#size);
    let at = 0;
    for (const piece of this.#open) {
      bytes.set(piece, at);
      at += piece.length;
    }
    this.#bodies.push({ bytes, answer: this.#answer });
    this.#open = [];
    this.#size = 0;
    this.#answer = 0;
  }

  done(): readonly Body[] {
    this.#close();
    return this.#bodies;
  }
}

/** A shorter piece of a scan at the end of a frame costs more than it brings. */
const LEAST_PIECE_BITS = 128;

/** 0 or 0xff where all bits are the same; null where they differ. */
function sameByte(bits: Uint8Array, count: number): 0 | 0xff | null {
  const whole = count >> 3;
  const rest = count & 7;
  const first = bits[0] ?? 0;
  const value = (first & 1) === 1 ? 0xff : 0;
  for (let i = 0; i < whole; i++) if (bits[i] !== value) return null;
  const mask = (1 << rest) - 1;
  return rest > 0 && ((bits[whole] ?? 0) & mask) !== (value & mask) ? null : value;
}

/**
 * Captured bits of a batch from the answers to its frames, one after another. A shift that was cut has a byte of its
 * own only where its pieces end, and they end at whole bytes.
 */
export function capturedIn(answers: readonly Uint8Array[], captures: readonly number[]): Uint8Array[] {
  const all = new Uint8Array(answers.reduce((sum, { length }) => sum + length, 0));
  let size = 0;
  for (const answer of answers) {
    all.set(answer, size);
    size += answer.length;
  }
  let at = 0;
  return captures.map((count) => {
    const bytes = (count + 7) >> 3;
    at += bytes;
    return all.slice(at - bytes, at);
  });
}
