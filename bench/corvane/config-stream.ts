import { crc32Update } from '../../core/bits/index.ts';

/** What a part learns while a configuration stream passes. Multi-byte numbers are big-endian. */
interface StreamListener {
  /** The start word has passed: what follows are packets. */
  started(): void;
  idcode(value: number): void;
  fingerprint(bytes: Uint8Array): void;
  frame(address: number, data: Uint8Array): void;
  /** The CRC the stream says of itself was right, or was not. */
  checked(isRight: boolean): void;
  /** A packet header that does not add up, or a kind of packet that there is none of. Nothing after it is read. */
  malformed(): void;
  /** The end; nothing after it is read. */
  begin(): void;
}

/** docs/silicon.md, section 5 */
const START = [0xc0, 0x4e, 0x57, 0x1a] as const;
const WORD_BYTES = 4;

type State = 'searching' | 'header' | 'body' | 'ended';

/**
 * The side of a part that takes its configuration stream, bit by bit as TDI or the flash brings it, with no knowledge
 * of where bytes begin before the start word. docs/silicon.md, section 5
 */
export class ConfigStream {
  readonly #tell: StreamListener;
  #state: State = 'searching';
  /** Of the bits that have come while the start word is looked for: the last 32. */
  #recent = 0n;
  #partial = 0;
  #partialBits = 0;
  #bytes: number[] = [];
  #kind = 0;
  #bodyBytes = 0;
  #crc = 0xffffffff;

  constructor(tell: StreamListener) {
    this.#tell = tell;
  }

  /** `count` bits, the first in bit 0 of the first byte. */
  take(packed: Uint8Array, count: number): void {
    for (let at = 0; at < count && this.#state !== 'ended'; at++) {
      const bit = ((packed[at >> 3] ?? 0) >> (at & 7)) & 1;
      if (this.#state === 'searching') this.#search(bit);
      else this.#collect(bit);
    }
  }

  #search(bit: number): void {
    this.#recent = ((this.#recent << 1n) | BigInt(bit)) & 0xffffffffn;
    const wanted = START.reduce((word, byte) => (word << 8n) | BigInt(byte), 0n);
    if (this.#recent !== wanted) return;
    this.#state = 'header';
    this.#tell.started();
  }

  #collect(bit: number): void {
    this.#partial = (this.#partial << 1) | bit;
    this.#partialBits++;
    if (this.#partialBits < 8) return;
    this.#bytes.push(this.#partial);
    this.#partial = 0;
    this.#partialBits = 0;
    if (this.#state === 'header' && this.#bytes.length === WORD_BYTES) this.#openPacket();
    else if (this.#state === 'body' && this.#bytes.length === this.#bodyBytes) this.#closePacket();
  }

  /** Kind, length in words over two bytes, and what makes the exclusive or of all four 0xFF. */
  #openPacket(): void {
    const header = Uint8Array.from(this.#bytes);
    const [kind = 0, high = 0, low = 0] = header;
    if (header.reduce((all, byte) => all ^ byte, 0) !== 0xff) return this.#stop(() => this.#tell.malformed());
    this.#kind = kind;
    this.#bodyBytes = (high * 256 + low) * WORD_BYTES;
    this.#bytes = [];
    // The check stands over everything after the start word and before its own packet.
    if (kind !== KIND.check) this.#crc = crc32Update(this.#crc, header);
    this.#state = 'body';
    if (this.#bodyBytes === 0) this.#closePacket();
  }

  #closePacket(): void {
    const body = Uint8Array.from(this.#bytes);
    this.#bytes = [];
    this.#state = 'header';
    if (this.#kind === KIND.check) return this.#tell.checked(wordAt(body, 0) === (this.#crc ^ 0xffffffff) >>> 0);
    this.#crc = crc32Update(this.#crc, body);
    if (this.#kind === KIND.ident) this.#tell.idcode(wordAt(body, 0));
    else if (this.#kind === KIND.print) this.#tell.fingerprint(body);
    else if (this.#kind === KIND.frame) this.#tell.frame(wordAt(body, 0), body.subarray(WORD_BYTES));
    else if (this.#kind === KIND.start) this.#stop(() => this.#tell.begin());
    else if (this.#kind !== KIND.noop) this.#stop(() => this.#tell.malformed());
  }

  #stop(last: () => void): void {
    this.#state = 'ended';
    last();
  }
}

/** docs/silicon.md, table 5 */
const KIND = { noop: 0x00, ident: 0x01, print: 0x02, frame: 0x03, check: 0x04, start: 0x05 } as const;

const wordAt = (bytes: Uint8Array, at: number): number =>
  bytes.subarray(at, at + WORD_BYTES).reduce((word, byte) => word * 256 + byte, 0);
