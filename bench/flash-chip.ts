import { COMMAND, FLASH_PARTS, type FlashPart } from '../core/flash/index.ts';
import { byteAt } from '../core/lists.ts';
import { parameterTable } from './parameter-table.ts';

const BUSY = 0x01;
const WRITE_ENABLED = 0x02;
const PAGE = 256;
const PROTECTED = 0x1c;
const WORN_BIT = 0x04;
const UNIQUE_ID_DUMMY = 4;

/** What can be wrong with a chip. */
interface ChipFaults {
  /** Answers as another part. */
  readonly identity: FlashPart['identity'] | null;
  readonly busyForever: boolean;
  /** A byte with a bit that reads wrong. */
  readonly badAddress: number | null;
  readonly isProtected: boolean;
  /** Its supply fails when this many more bytes have been erased or programmed. */
  readonly failsAfter: number | null;
}

const HEALTHY: ChipFaults = {
  identity: null,
  busyForever: false,
  badAddress: null,
  isProtected: false,
  failsAfter: null,
};

const blanks = new Map<number, Uint8Array>();

/** An erased chip of so many bytes: one for all, for a chain may hold two hundred. */
function blankOf(bytes: number): Uint8Array {
  const blank = blanks.get(bytes) ?? new Uint8Array(bytes).fill(0xff);
  blanks.set(bytes, blank);
  return blank;
}

/**
 * A serial flash chip on its four pins. Programming only clears bits, a page wraps, erase needs the write-enable latch,
 * and while it is busy it answers nothing but its status. Contents outlive power.
 */
export class FlashChip {
  readonly part: FlashPart;
  #memory: Uint8Array;
  readonly #now: () => number;
  changes = 0;
  readonly #uniqueId: Uint8Array | null;
  readonly #failed: () => void;
  /** Without supply until power comes back. */
  #dead = false;
  faults = HEALTHY;
  readonly #parameters: Uint8Array;
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

  /** `now` gives the time in microseconds; `failed` is called when the supply fails in the middle of a change. */
  constructor(
    name: string,
    memory: Uint8Array | null,
    now: () => number,
    uniqueId: Uint8Array | null = null,
    failed: () => void = () => {},
  ) {
    const part = FLASH_PARTS.find((p) => p.name === name);
    if (!part) throw new RangeError(`no flash part ${name}`);
    this.part = part;
    this.#memory = memory ?? blankOf(part.bytes);
    this.#now = now;
    this.#uniqueId = uniqueId;
    this.#failed = failed;
    this.#parameters = parameterTable(part);
  }

  /** Its contents, to be read alone: chips that nothing was written to share one blank. */
  get memory(): Uint8Array {
    return this.#memory;
  }

  /** Its contents, to be changed. */
  #own(): Uint8Array {
    if (this.#memory === blankOf(this.part.bytes)) this.#memory = this.#memory.slice();
    return this.#memory;
  }

  /** Power comes back: latches are clear, an interrupted write is over. */
  powerUp(): void {
    this.#busyUntil = 0;
    this.#writeEnabled = false;
    this.#asleep = false;
    this.#dead = false;
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

  /** What it puts on MISO now. */
  get level(): number {
    return (this.#outgoing >>> 7) & 1;
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
    return this.#now() < this.#busyUntil || (this.faults.busyForever && this.#busyUntil > 0);
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
    if (this.#dead) return 0xff;
    if (command === COMMAND.READ_STATUS)
      return (
        (this.busy ? BUSY : 0) | (this.#writeEnabled ? WRITE_ENABLED : 0) | (this.faults.isProtected ? PROTECTED : 0)
      );
    if (this.busy || this.#asleep) return 0xff;
    switch (command) {
      case COMMAND.IDENTITY:
        return (this.faults.identity ?? this.part.identity)[count] ?? 0xff;
      case COMMAND.UNIQUE_ID:
        return count < UNIQUE_ID_DUMMY ? 0xff : (this.#uniqueId?.[count - UNIQUE_ID_DUMMY] ?? 0xff);
      case COMMAND.PARAMETERS: {
        if (count < 4) return 0xff;
        if (count === 4) this.#reading = this.#address();
        else this.#bytes.pop();
        return this.#parameters[this.#reading++] ?? 0xff;
      }
      case COMMAND.READ:
      case COMMAND.FAST_READ: {
        const dummy = command === COMMAND.FAST_READ ? 1 : 0;
        if (count < 3 + dummy) return 0xff;
        if (count === 3 + dummy) this.#reading = this.#address();
        else this.#bytes.pop(); // a read may go on for ever: only its address is kept
        const byte = byteAt(this.memory, this.#reading) ^ (this.#reading === this.faults.badAddress ? WORN_BIT : 0);
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
    if (this.#dead || this.busy || this.#asleep) return;
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
        const type = this.part.erases.find((erase) => erase.command === command);
        if (type && this.#bytes.length === 3)
          this.#erase(this.#address() - (this.#address() % type.bytes), type.bytes, type.typical);
      }
    }
  }

  #program(): void {
    if (!this.#writeEnabled || this.#bytes.length < 4 || this.faults.isProtected) return;
    const address = this.#address();
    const page = address - (address % PAGE);
    const data = this.#bytes.slice(3);
    const room = this.#room(data.length);
    const memory = this.#own();
    for (const [i, byte] of data.slice(0, room).entries()) {
      const at = page + ((address + i) % PAGE);
      memory[at] = byteAt(memory, at) & byte;
    }
    this.#start(this.part.page.typical);
  }

  #erase(from: number, size: number, time: number): void {
    if (!this.#writeEnabled || this.faults.isProtected) return;
    this.#own().fill(0xff, from, from + this.#room(size));
    this.#start(time);
  }

  /** How many bytes of a change are carried out before the supply fails. */
  #room(bytes: number): number {
    const { failsAfter } = this.faults;
    if (failsAfter === null) return bytes;
    if (bytes < failsAfter) {
      this.faults = { ...this.faults, failsAfter: failsAfter - bytes };
      return bytes;
    }
    this.faults = { ...this.faults, failsAfter: null };
    this.#dead = true;
    this.#failed();
    return failsAfter;
  }

  #start(microseconds: number): void {
    this.changes++;
    this.#writeEnabled = false;
    this.#busyUntil = this.#now() + microseconds * 0.9;
  }
}
