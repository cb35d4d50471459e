import { type Bits, bitsFromBigInt, concatBits, constantBits, sliceBits } from '../bits/index.ts';
import { item } from '../lists.ts';
import type { ScanQueue } from './queue.ts';

/**
 * One device of a chain, spoken to while all others are in BYPASS. Pads every scan for them.
 *
 * `irLengths` runs from the device nearest TDO (index 0) to the one nearest TDI.
 */
export class ChainLink {
  readonly queue: ScanQueue;
  readonly index: number;
  readonly #irBefore: number;
  readonly #irAfter: number;
  readonly #irLength: number;
  /** Devices between this one and TDO: their BYPASS bits come out before this device's. */
  readonly toTdo: number;
  /** Devices between TDI and this one: their captured zeros reach it before anything that was sent. */
  readonly toTdi: number;

  constructor(queue: ScanQueue, irLengths: readonly number[], index: number) {
    const sum = (part: readonly number[]) => part.reduce((total, length) => total + length, 0);
    this.queue = queue;
    this.index = index;
    this.#irLength = item(irLengths, index);
    this.#irBefore = sum(irLengths.slice(0, index));
    this.#irAfter = sum(irLengths.slice(index + 1));
    this.toTdo = index;
    this.toTdi = irLengths.length - 1 - index;
  }

  /** Selects an instruction here, BYPASS (all ones) elsewhere. Instruction registers may be of any length. */
  select(opcode: number | bigint): void {
    this.queue.ir(this.#instruction(opcode));
  }

  /** The same; resolves, after a flush, to what Capture-IR had loaded here. */
  exchangeInstruction(opcode: number | bigint): Promise<Bits> {
    return this.queue
      .irCapture(this.#instruction(opcode))
      .then((tdo) => sliceBits(tdo, this.#irBefore, this.#irLength));
  }

  /** Sends a data register's worth; the register ends up holding exactly these bits. */
  write(bits: Bits): void {
    this.queue.dr(this.#pad(bits));
  }

  /** Exchanges a register of `bits.length`; resolves, after a flush, to what it captured. */
  exchange(bits: Bits): Promise<Bits> {
    return this.queue.drCapture(this.#pad(bits)).then((tdo) => sliceBits(tdo, this.toTdo, bits.length));
  }

  async exchangeNow(bits: Bits): Promise<Bits> {
    const answer = this.exchange(bits);
    await this.queue.flush();
    return answer;
  }

  /** Reads a register of `length` bits by shifting zeros into it. */
  readNow(length: number): Promise<Bits> {
    return this.exchangeNow(constantBits(length, 0));
  }

  /**
   * A scan into a register that frames itself by a leading 1, as links to a flash or a fabric do: `payload`
   * follows that 1 bit for bit, `tail` more zeros follow it. Resolves, after a flush, to the bits that left the device
   * from the cycle after the 1 was taken in: `payload.length + tail` of them less the delay of the devices towards TDO.
   */
  framed(payload: Bits, tail: number): Promise<Bits> {
    const tdi = this.#frame(payload, tail);
    // The 1 is taken in at cycle toTdi + toTdo; what the device puts out in the next cycle crosses toTdo BYPASS bits.
    const first = this.toTdi + 2 * this.toTdo + 1;
    return this.queue.drCapture(tdi).then((tdo) => sliceBits(tdo, first, Math.max(0, tdo.length - first)));
  }

  /** A piece of a scan without end; only the `last` piece leaves Shift-DR, once the device has all of it. */
  stream(bits: Bits, last: boolean): void {
    this.queue.drPiece(last ? concatBits(bits, constantBits(this.toTdi, 0)) : bits, last);
  }

  /** A framed scan without an answer. The last payload bit is the last one the device sees. */
  frame(payload: Bits): void {
    this.queue.dr(this.#frame(payload, 0));
  }

  #instruction(opcode: number | bigint): Bits {
    return concatBits(
      constantBits(this.#irBefore, 1),
      bitsFromBigInt(BigInt(opcode), this.#irLength),
      constantBits(this.#irAfter, 1),
    );
  }

  #pad(bits: Bits): Bits {
    if (this.toTdo === 0 && this.toTdi === 0) return bits;
    return concatBits(constantBits(this.toTdo, 0), bits, constantBits(this.toTdi, 0));
  }

  #frame(payload: Bits, tail: number): Bits {
    const start = constantBits(1, 1);
    return this.#pad(concatBits(start, payload, constantBits(tail, 0)));
  }
}
