// Frames on a serial wire: a check behind, no zero within, a zero at the end. docs/wire.md, section 2

const POLYNOMIAL = 0x1021;
const CHECK_BYTES = 2;
const MOST_RUN = 254;

const TABLE = Uint16Array.from({ length: 256 }, (_, byte) => {
  let value = byte << 8;
  for (let bit = 0; bit < 8; bit++) value = value & 0x8000 ? (value << 1) ^ POLYNOMIAL : value << 1;
  return value;
});

/** CRC-16/IBM-3740: polynomial 0x1021, from 0xFFFF, highest bit first. */
function check16(bytes: Uint8Array): number {
  let check = 0xffff;
  for (const byte of bytes) check = ((check << 8) & 0xffff) ^ (TABLE[(check >> 8) ^ byte] ?? 0);
  return check;
}

/** A frame as it goes onto the wire, its check and the zero at its end included. */
export function framed(bytes: Uint8Array): Uint8Array {
  const check = check16(bytes);
  const whole = new Uint8Array(bytes.length + CHECK_BYTES);
  whole.set(bytes);
  whole.set([check >> 8, check & 0xff], bytes.length);
  return stuffed(whole);
}

/**
 * Without a zero but for the one at the end; at most one byte in 254 longer.
 *
 * @source Cheshire and Baker, Consistent Overhead Byte Stuffing, 1999
 */
function stuffed(bytes: Uint8Array): Uint8Array {
  const out = new Uint8Array(bytes.length + Math.ceil(bytes.length / MOST_RUN) + 2);
  let at = 0;
  let from = 0;
  for (;;) {
    const zero = bytes.indexOf(0, from);
    const end = Math.min(zero < 0 ? bytes.length : zero, from + MOST_RUN);
    out[at++] = end - from + 1;
    out.set(bytes.subarray(from, end), at);
    at += end - from;
    const isFull = end - from === MOST_RUN;
    if (end === bytes.length) return out.subarray(0, at + 1);
    from = isFull ? end : end + 1;
  }
}

/** Bytes of one frame without their stuffing; null where they are none. */
function unstuffed(bytes: Uint8Array): Uint8Array | null {
  const out = new Uint8Array(bytes.length);
  let size = 0;
  for (let at = 0; at < bytes.length; ) {
    const block = bytes[at] ?? 1;
    const end = at + block;
    if (end > bytes.length) return null;
    out.set(bytes.subarray(at + 1, end), size);
    size += block - 1;
    at = end;
    if (block <= MOST_RUN && at < bytes.length) out[size++] = 0;
  }
  return out.subarray(0, size);
}

/** Longer than any frame: what comes without a zero for so long is none of ours, and is not kept. */
const MOST_FRAME = 4096;

/** Takes bytes as they come, gives the frames among them. */
export class FrameReader {
  #kept: Uint8Array[] = [];
  #keptBytes = 0;
  /** Frames that came and whose check was wrong. */
  damaged = 0;

  take(bytes: Uint8Array): Uint8Array[] {
    const frames: Uint8Array[] = [];
    for (let from = 0; from < bytes.length; ) {
      const zero = bytes.indexOf(0, from);
      const end = zero < 0 ? bytes.length : zero;
      this.#keep(bytes.subarray(from, end));
      if (zero < 0) break;
      const frame = this.#whole();
      if (frame) frames.push(frame);
      from = zero + 1;
    }
    return frames;
  }

  #keep(piece: Uint8Array): void {
    if (piece.length === 0) return;
    this.#keptBytes += piece.length;
    if (this.#keptBytes <= MOST_FRAME) this.#kept.push(piece.slice());
    else this.#kept = [];
  }

  #whole(): Uint8Array | null {
    if (this.#keptBytes === 0) return null;
    const stuffedBytes = new Uint8Array(this.#kept.reduce((sum, { length }) => sum + length, 0));
    let at = 0;
    for (const piece of this.#kept) {
      stuffedBytes.set(piece, at);
      at += piece.length;
    }
    this.#kept = [];
    this.#keptBytes = 0;
    const bytes = unstuffed(stuffedBytes);
    if (bytes && bytes.length > CHECK_BYTES && check16(bytes) === 0) return bytes.subarray(0, -CHECK_BYTES);
    this.damaged++;
    return null;
  }
}
