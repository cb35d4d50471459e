import { COMMAND, FLASH_PARTS, type FlashPart } from '../core/flash/index.ts';

const BUSY = 0x01;
const WRITE_ENABLED = 0x02;
const PAGE = 256;
const ERASES: Readonly<Record<number, number>> = { [COMMAND.ERASE_4K]: 1 << 12, [COMMAND.ERASE_32K]: 1 << 15, [COMMAND.ERASE_64K]: 1 << 16 };

/**
 * A serial flash chip on its four pins. Programming only clears bits, a page wraps, erase needs the write-enable latch, and while it is
 * busy it answers nothing but its status. Contents outlive power.
 */
export class FlashChip {
  readonly part: FlashPart;
  readonly memory: Uint8Array;
  readonly #now: () => number;
  changes = 0;
  #busyUntil = 0;
  #writeEnabled = false;
  #asleep = false;
  #selected = false;
  #command: number | null = null;
  #bytes: number[] = [];
  #bit = 0;
  #incoming = 0;
  #outgoing = 0xff;
  #reading = 0;

  /** `now` gives the time in microseconds. */
  constructor(name: string, memory: Uint8Array | null, now: () => number) {
    const part = FLASH_PARTS.find((p) => p.name === name);
    if (!part) throw new RangeError(`no flash part ${name}`);
    this.part = part;
    this.memory = memory ?? new Uint8Array(part.bytes).fill(0xff);
    this.#now = now;
  }

  /** Power comes back: latches are clear, an interrupted write is over. */
  powerUp(): void {
    this.#busyUntil = 0;
    this.#writeEnabled = false;
    this.#asleep = false;
    this.deselect();
  }

  select(): void {
    this.#selected = true;
    this.#command = null;
    this.#bytes = [];
    this.#bit = 0;
    this.#incoming = 0;
    this.#outgoing = 0xff;
  }

  /** One clock: takes MOSI, gives MISO as it was before the rising edge. */
  clock(mosi: number): number {
    const miso = (this.#outgoing >>> 7) & 1;
    this.#outgoing = ((this.#outgoing << 1) | 1) & 0xff;
    this.#incoming = ((this.#incoming << 1) | mosi) & 0xff;
    if (++this.#bit === 8) {
      this.#bit = 0;
      this.#byte(this.#incoming);
    }
    return miso;
  }

  /** Chip select rises: commands that change the chip begin here, and only on a byte boundary. */
  deselect(): void {
    if (this.#selected && this.#bit === 0 && this.#command !== null) this.#finish(this.#command);
    this.#selected = false;
    this.#command = null;
  }

  get busy(): boolean {
    return this.#now() < this.#busyUntil;
  }

  #byte(byte: number): void {
    if (this.#command === null) {
      this.#command = byte;
      this.#outgoing = this.#answer(0);
      return;
    }
    this.#bytes.push(byte);
    this.#outgoing = this.#answer(this.#bytes.length);
    if (this.#bytes.length > 3 + PAGE) this.#bytes.splice(3, 1); // a page program keeps the last 256 bytes
  }

  /** The byte to give after `count` bytes behind the command. */
  #answer(count: number): number {
    const command = this.#command as number;
    if (command === COMMAND.READ_STATUS) return (this.busy ? BUSY : 0) | (this.#writeEnabled ? WRITE_ENABLED : 0);
    if (this.busy || this.#asleep) return 0xff;
    switch (command) {
      case COMMAND.IDENTITY:
        return this.part.identity[count] ?? 0xff;
      case COMMAND.READ:
      case COMMAND.FAST_READ: {
        const dummy = command === COMMAND.FAST_READ ? 1 : 0;
        if (count < 3 + dummy) return 0xff;
        if (count === 3 + dummy) this.#reading = this.#address();
        else this.#bytes.pop(); // a read may go on for ever: only its address is kept
        const byte = this.memory[this.#reading] as number;
        this.#reading = (this.#reading + 1) % this.part.bytes;
        return byte;
      }
      default:
        return 0xff;
    }
  }

  #address(): number {
    const [a = 0, b = 0, c = 0] = this.#bytes;
    return ((a << 16) | (b << 8) | c) % this.part.bytes;
  }

  #finish(command: number): void {
    if (command === COMMAND.WAKE) this.#asleep = false;
    if (this.busy || this.#asleep) return;
    switch (command) {
      case COMMAND.WRITE_ENABLE:
        this.#writeEnabled = true;
        return;
      case COMMAND.WRITE_DISABLE:
        this.#writeEnabled = false;
        return;
      case COMMAND.SLEEP:
        this.#asleep = true;
        return;
      case COMMAND.PAGE_PROGRAM:
        return this.#program();
      case COMMAND.ERASE_CHIP:
        return this.#erase(0, this.part.bytes, this.part.erase.typical * (this.part.bytes / this.part.erase.bytes));
      default: {
        const size = ERASES[command];
        if (size !== undefined && this.#bytes.length === 3) this.#erase(this.#address() - (this.#address() % size), size, (this.part.erase.typical * size) / this.part.erase.bytes);
      }
    }
  }

  #program(): void {
    if (!this.#writeEnabled || this.#bytes.length < 4) return;
    const address = this.#address();
    const page = address - (address % PAGE);
    for (const [i, byte] of this.#bytes.slice(3).entries()) {
      const at = page + ((address + i) % PAGE);
      this.memory[at] = (this.memory[at] as number) & byte;
    }
    this.#start(this.part.page.typical);
  }

  #erase(from: number, size: number, time: number): void {
    if (!this.#writeEnabled) return;
    this.memory.fill(0xff, from, from + size);
    this.#start(time);
  }

  #start(microseconds: number): void {
    this.changes++;
    this.#writeEnabled = false;
    this.#busyUntil = this.#now() + microseconds * 0.9;
  }
}
