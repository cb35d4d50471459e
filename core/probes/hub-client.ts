import { bigIntOf, type Bits, bitsFromBigInt, concatBits, constantBits, sliceBits } from '../bits/index.ts';
import type { ChainLink } from '../jtag/index.ts';
import { fail, ok, type Result } from '../result.ts';
import { problem } from './problems.ts';

const OPERATION = { write: 1, read: 2, stream: 3 } as const;
const PAUSE_BITS = 16;
const HUB_MARK = 0x48550001n;

interface HubIdentity {
  readonly fingerprint: string;
  readonly cores: number;
}

/**
 * The host's side of the hub, reached through the user register that the part's instruction `debugLink` selects.
 * Writes are queued and go out with the next read or `flush`.
 */
export class HubClient {
  readonly #link: ChainLink;
  readonly #late: number;

  /** `late`: bits that the part puts between its fabric's register and TDO. */
  constructor(link: ChainLink, debugLink: number | bigint, late = 0) {
    this.#link = link;
    this.#late = late;
    link.select(debugLink);
  }

  /** Place of the part in its chain. */
  get device(): number {
    return this.#link.index;
  }

  get queue(): ChainLink['queue'] {
    return this.#link.queue;
  }

  /** Who answers: the fingerprint the hub was built with, or that there is no hub. */
  async identify(): Promise<Result<HubIdentity>> {
    const answer = this.identifyLater();
    await this.flush();
    return answer;
  }

  /** The same, carried out by a later flush. */
  async identifyLater(): Promise<Result<HubIdentity>> {
    const [[mark, cores = 0n], words] = await Promise.all([this.readLater(0, 0, 2), this.readLater(0, 4, 4)]);
    if (mark !== HUB_MARK) return fail(problem('no-hub'));
    const value = words.reduceRight((sum, word) => (sum << 32n) | word, 0n);
    return ok({ fingerprint: value.toString(16).padStart(32, '0'), cores: Number(cores) });
  }

  /** Whether it still answers: what a core does not answer may be the cable. */
  async answers(): Promise<boolean> {
    return (await this.identify()).ok;
  }

  /** Queues 32-bit words for one register of one core. */
  write(core: number, register: number, words: readonly bigint[]): void {
    this.#link.frame(
      concatBits(command(OPERATION.write, core, register), ...words.map((word) => bitsFromBigInt(word, 32))),
    );
    // The last word is handed to its core by the edges that follow the scan.
    this.#link.queue.clock(2);
  }

  async read(core: number, register: number, count: number): Promise<bigint[]> {
    const words = this.readLater(core, register, count);
    await this.flush();
    return words;
  }

  /** The same, carried out by a later flush, so that nothing but what is queued lies between two reads. */
  async readLater(core: number, register: number, count: number): Promise<bigint[]> {
    const bits = await this.#receive(OPERATION.read, core, register, count * 32);
    return Array.from({ length: count }, (_, i) => bigIntOf(sliceBits(bits, i * 32, 32)));
  }

  /** Bits from a core's read-out, in the order they leave it. */
  async stream(core: number, count: number): Promise<Bits> {
    const bits = this.streamLater(core, count);
    await this.flush();
    return bits;
  }

  /** The same, carried out by a later flush. */
  streamLater(core: number, count: number): Promise<Bits> {
    return this.#receive(OPERATION.stream, core, 0, count);
  }

  /** Edges in which a request passes the synchronisers to a clock that is no slower than TCK, and its answer returns. */
  cross(): void {
    this.clock(CROSSING_CLOCKS);
  }

  clock(count: number): void {
    this.#link.queue.clock(count);
  }

  flush(): Promise<void> {
    return this.#link.queue.flush();
  }

  async #receive(operation: number, core: number, register: number, count: number): Promise<Bits> {
    const ask = concatBits(command(operation, core, register), constantBits(PAUSE_BITS, 0));
    const reply = this.#link.framed(ask, count + this.#link.toTdo + this.#late);
    return sliceBits(await reply, ask.length + this.#late, count);
  }
}

const CROSSING_CLOCKS = 8;

const command = (operation: number, core: number, register: number): Bits =>
  bitsFromBigInt(BigInt(register | (core << 8) | (operation << 12)), 16);
