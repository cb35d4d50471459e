import { packedLength, reverseByte } from '../../bits/index.ts';
import type { SpiPort } from '../../flash/index.ts';
import type { ChainLink } from '../../jtag/index.ts';
import { INSTRUCTION } from './parts.ts';

/**
 * The flash's SPI port, reached through a Corvane: SPI_LINK passes a scan on to the pins from the first 1 after
 * Capture-DR until Shift-DR is left, answers one cycle late. docs/silicon.md, section 7
 *
 * One of these serves one run of flash commands: it selects SPI_LINK once, so nothing else may use the device
 * meanwhile.
 */
export class SpiOverJtag implements SpiPort {
  readonly #link: ChainLink;
  #selected = false;

  constructor(link: ChainLink) {
    this.#link = link;
  }

  send(bytes: Uint8Array): void {
    this.#select();
    this.#link.frame({ length: bytes.length * 8, bytes: bytes.map(reverseByte) });
  }

  get bitsPerSecond(): number {
    return this.#link.queue.cable.tckHz;
  }

  async exchange(command: Uint8Array, answerBytes: number): Promise<Uint8Array> {
    const answer = this.later(command, answerBytes);
    await this.#link.queue.flush();
    return answer;
  }

  async later(command: Uint8Array, answerBytes: number): Promise<Uint8Array> {
    this.#select();
    const sent = new Uint8Array(command.length + answerBytes);
    sent.set(command);
    const bits = { length: sent.length * 8, bytes: sent.map(reverseByte) };
    // Bit j of the answer is at place j + 1, and the devices towards TDO hold back as many bits as there are.
    const reply = this.#link.framed(bits, this.#link.toTdo + 2);
    const answer = shiftDown((await reply).bytes, command.length * 8 + 1, answerBytes * 8);
    this.#link.queue.countPayload(answerBytes * 8);
    return answer.map(reverseByte);
  }

  countSent(bytes: number): void {
    this.#link.queue.countPayload(bytes * 8);
  }

  wait(microseconds: number): void {
    this.#link.queue.wait(microseconds);
  }

  async flush(): Promise<void> {
    await this.#link.queue.flush();
  }

  #select(): void {
    if (!this.#selected) this.#link.select(INSTRUCTION.SPI_LINK);
    this.#selected = true;
  }
}

function shiftDown(bytes: Uint8Array, from: number, count: number): Uint8Array {
  const out = new Uint8Array(packedLength(count));
  for (let i = 0; i < out.length; i++) {
    const at = from + i * 8;
    const low = (bytes[at >>> 3] ?? 0) >>> (at & 7);
    const high = (bytes[(at >>> 3) + 1] ?? 0) << (8 - (at & 7));
    out[i] = (low | high) & 0xff;
  }
  return out;
}
