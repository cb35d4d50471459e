import { type Bits, bitAt } from '../bits/index.ts';
import type { SpiPort } from '../flash/index.ts';
import { fail, ok, type Result } from '../result.ts';
import type { HubClient } from './hub-client.ts';
import type { BridgeMap } from './map.ts';
import { problem } from './problems.ts';

const KIND = 0x42520001n;
const REGISTER = { select: 0, pair: 1, byte: 2, none: 7 } as const;
/** Each bit of the flash takes two edges of TCK. */
const EDGES_A_BIT = 2;

/**
 * A flash on four pins of a fabric, through the bridge core in it. Words of 16 bits go out one behind another, each in
 * the 32 edges that the next one takes to arrive.
 */
export class BridgeClient implements SpiPort {
  readonly #hub: HubClient;
  readonly #map: BridgeMap;

  constructor(hub: HubClient, map: BridgeMap) {
    this.#hub = hub;
    this.#map = map;
  }

  /** Fails where the core means something else by its registers. */
  async isKnown(): Promise<Result<null>> {
    const [kind] = await this.#hub.read(this.#map.core, REGISTER.select, 1);
    return kind === KIND ? ok(null) : fail(problem('no-bridge', { name: this.#map.name }));
  }

  get bitsPerSecond(): number {
    return this.#hub.queue.cable.tckHz / EDGES_A_BIT;
  }

  send(bytes: Uint8Array): void {
    this.#begin(bytes);
    this.#select(false);
  }

  async exchange(command: Uint8Array, answerBytes: number): Promise<Uint8Array> {
    const answer = this.later(command, answerBytes);
    await this.flush();
    return answer;
  }

  async later(command: Uint8Array, answerBytes: number): Promise<Uint8Array> {
    this.#begin(command);
    const bits = this.#hub.streamLater(this.#map.core, answerBytes * 8 * EDGES_A_BIT + 1);
    this.#select(false);
    const answer = bytesOf(await bits, answerBytes);
    this.#hub.queue.countPayload(answerBytes * 8);
    return answer;
  }

  #begin(bytes: Uint8Array): void {
    const { core } = this.#map;
    this.#select(true);
    const whole = bytes.length & ~1;
    const pairs: bigint[] = [];
    for (let i = 0; i < whole; i += 2) pairs.push(BigInt(((bytes[i] ?? 0) << 8) | (bytes[i + 1] ?? 0)));
    if (pairs.length > 0) this.#hub.write(core, REGISTER.pair, pairs);
    if (whole < bytes.length) this.#hub.write(core, REGISTER.byte, [BigInt(bytes[whole] ?? 0)]);
    // Written nowhere: its edges carry the last bits out.
    this.#hub.write(core, REGISTER.none, [0n, 0n]);
  }

  #select(on: boolean): void {
    this.#hub.write(this.#map.core, REGISTER.select, [on ? 1n : 0n]);
  }

  wait(microseconds: number): void {
    this.#hub.queue.wait(microseconds);
  }

  flush(): Promise<void> {
    return this.#hub.flush();
  }

  countSent(bytes: number): void {
    this.#hub.queue.countPayload(bytes * 8);
  }
}

/** Bit k of the answer is at place 2k + 1 of what was streamed; a byte's highest bit comes first. */
function bytesOf(bits: Bits, count: number): Uint8Array {
  return Uint8Array.from({ length: count }, (_, byte) => {
    let value = 0;
    for (let bit = 0; bit < 8; bit++) value = (value << 1) | bitAt(bits, (byte * 8 + bit) * EDGES_A_BIT + 1);
    return value;
  });
}
