import { crc32Update, reverseByte } from '../../bits/index.ts';
import { byteAt } from '../../lists.ts';

/** First word after the fill. docs/silicon.md, section 5 */
export const START_WORD = 0xc04e571a;
export const FRAME_BYTES = 256;
const FILL_BYTES = 8;

/** Packet kinds; docs/silicon.md, table 5 */
const PACKET = { NOOP: 0x00, IDENT: 0x01, PRINT: 0x02, FRAME: 0x03, CHECK: 0x04, START: 0x05 } as const;

/** Most payload that goes into the frames of a part; the last one is left to the run-time marks. */
export const frameCapacity = (frames: number): number => (frames - 1) * FRAME_BYTES - 4;

const PRINT_BYTES = 16;

/** Length in bytes of every stream for a part with that many frames. */
export const streamBytes = (frames: number): number =>
  FILL_BYTES + 4 + 8 + 4 + PRINT_BYTES + frames * (8 + FRAME_BYTES) + 8 + 4 + FILL_BYTES;

/**
 * Puts a packed design into a configuration stream for one part: bytes in the order they are sent, bit 7 of each first.
 * All frames are written, so every stream for a part is equally long. The caller has checked that the payload fits.
 */
export function buildStream(idcode: number, frames: number, fingerprint: Uint8Array, payload: Uint8Array): Uint8Array {
  const memory = new Uint8Array(frames * FRAME_BYTES);
  new DataView(memory.buffer).setUint32(0, payload.length);
  memory.set(payload, 4);
  const bytes = new Uint8Array(streamBytes(frames)).fill(0xff);
  const view = new DataView(bytes.buffer);
  let at = FILL_BYTES;
  const word = (value: number) => {
    view.setUint32(at, value >>> 0);
    at += 4;
  };
  const header = (kind: number, words: number) => word(packetHeader(kind, words));
  word(START_WORD);
  const checkedFrom = at;
  header(PACKET.IDENT, 1);
  word(idcode);
  header(PACKET.PRINT, fingerprint.length / 4);
  bytes.set(fingerprint, at);
  at += fingerprint.length;
  for (let frame = 0; frame < frames; frame++) {
    header(PACKET.FRAME, 1 + FRAME_BYTES / 4);
    word(frame);
    bytes.set(memory.subarray(frame * FRAME_BYTES, (frame + 1) * FRAME_BYTES), at);
    at += FRAME_BYTES;
  }
  const crc = crc32Update(0xffffffff, bytes.subarray(checkedFrom, at)) ^ 0xffffffff;
  header(PACKET.CHECK, 1);
  word(crc);
  header(PACKET.START, 0);
  return bytes;
}

/** Kind, length in words, and a byte that makes all four sum to 255 by exclusive or. */
function packetHeader(kind: number, words: number): number {
  const [high, low] = [words >>> 8, words & 0xff];
  return ((kind << 24) | (high << 16) | (low << 8) | (0xff ^ kind ^ high ^ low)) >>> 0;
}

/** 1 for the bytes that can stand before the one in which the start word ends, however it lies across bytes. */
const BEFORE_END = new Uint8Array(256);
for (let k = 1; k <= 8; k++) BEFORE_END[(START_WORD >>> k) & 0xff] = 1;

/** Whether the start word ends at one of the bits of a byte that comes after these 32. */
function endsInside(window: number, byte: number): boolean {
  if (byteAt(BEFORE_END, window & 0xff) === 0) return false;
  const next = reverseByte(byte);
  for (let k = 1; k <= 8; k++) if (((window << k) | (next >>> (8 - k))) >>> 0 === START_WORD) return true;
  return false;
}

/** What a configuration engine learns while the stream passes. */
type StreamEvent =
  | { readonly kind: 'start-word' }
  | { readonly kind: 'ident'; readonly idcode: number }
  | { readonly kind: 'print'; readonly fingerprint: Uint8Array }
  | { readonly kind: 'frame'; readonly address: number; readonly data: Uint8Array }
  | { readonly kind: 'check'; readonly good: boolean }
  | { readonly kind: 'start' }
  | { readonly kind: 'malformed' };

/**
 * Takes a stream apart as hardware does: any number of bits at a time, no knowledge of its length, aligned by the sync
 * word alone. Ends for good at a malformed packet or after `start`.
 */
export class StreamDecoder {
  readonly #emit: (event: StreamEvent) => void;
  #window = 0;
  #startWorded = false;
  #ended = false;
  #bitsInByte = 0;
  #byte = 0;
  #packet: { kind: number; body: Uint8Array; filled: number } | null = null;
  #header = new Uint8Array(4);
  #headerFilled = 0;
  #crc = 0xffffffff;

  constructor(emit: (event: StreamEvent) => void) {
    this.#emit = emit;
  }

  /** `count` bits, first bit first, packed from bit 0 of the first byte up. */
  bits(packed: Uint8Array, count: number): void {
    let i = this.#toStartWord(packed, count);
    while (i < count && !this.#ended)
      if ((i & 7) === 0 && count - i >= 8) {
        const bits = (this.#byte << 8) | reverseByte(byteAt(packed, i >>> 3));
        this.#byte = bits & ((1 << this.#bitsInByte) - 1);
        this.#take(bits >>> this.#bitsInByte);
        i += 8;
      } else {
        this.#byte = (this.#byte << 1) | ((byteAt(packed, i >>> 3) >>> (i & 7)) & 1);
        i++;
        if (++this.#bitsInByte < 8) continue;
        this.#take(this.#byte);
        this.#bitsInByte = 0;
        this.#byte = 0;
      }
  }

  /** Passes over what stands before the start word, and that word; gives how many bits. */
  #toStartWord(packed: Uint8Array, count: number): number {
    let i = 0;
    let window = this.#window;
    while (i < count && !this.#startWorded) {
      const byte = byteAt(packed, i >>> 3);
      if ((i & 7) === 0 && count - i >= 8 && !endsInside(window, byte)) {
        window = ((window << 8) | reverseByte(byte)) >>> 0;
        i += 8;
        continue;
      }
      window = ((window << 1) | ((byte >>> (i & 7)) & 1)) >>> 0;
      i++;
      if (window === START_WORD) this.#startWord();
    }
    this.#window = window;
    return i;
  }

  #startWord(): void {
    this.#startWorded = true;
    this.#emit({ kind: 'start-word' });
  }

  #take(byte: number): void {
    if (this.#packet === null) {
      this.#header[this.#headerFilled++] = byte;
      if (this.#headerFilled === 4) this.#open();
      return;
    }
    const packet = this.#packet;
    packet.body[packet.filled++] = byte;
    if (packet.filled === packet.body.length) this.#close(packet);
  }

  #open(): void {
    const [kind, high, low, check] = this.#header as unknown as [number, number, number, number];
    this.#headerFilled = 0;
    if ((kind ^ high ^ low ^ check) !== 0xff) return this.#stop({ kind: 'malformed' });
    if (kind !== PACKET.CHECK) this.#crc = crc32Update(this.#crc, this.#header);
    const packet = { kind, body: new Uint8Array(((high << 8) | low) * 4), filled: 0 };
    if (packet.body.length === 0) this.#close(packet);
    else this.#packet = packet;
  }

  #close({ kind, body }: { kind: number; body: Uint8Array }): void {
    this.#packet = null;
    const word = body.length >= 4 ? new DataView(body.buffer).getUint32(0) : 0;
    if (kind === PACKET.CHECK) {
      this.#emit({ kind: 'check', good: word === (this.#crc ^ 0xffffffff) >>> 0 });
      return;
    }
    this.#crc = crc32Update(this.#crc, body);
    switch (kind) {
      case PACKET.NOOP:
        return;
      case PACKET.IDENT:
        return this.#emit({ kind: 'ident', idcode: word });
      case PACKET.PRINT:
        return this.#emit({ kind: 'print', fingerprint: body });
      case PACKET.FRAME:
        return this.#emit({ kind: 'frame', address: word, data: body.subarray(4) });
      case PACKET.START:
        return this.#stop({ kind: 'start' });
      default:
        return this.#stop({ kind: 'malformed' });
    }
  }

  #stop(event: StreamEvent): void {
    this.#ended = true;
    this.#emit(event);
  }
}
