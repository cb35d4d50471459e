import type { Bits } from '../bits/index.ts';
import { copyBits, packedLength } from '../bits/index.ts';
import { stopIfCancelled, type Watch } from '../progress.ts';
import type { HubClient } from './hub-client.ts';
import type { RecorderMap } from './map.ts';

export type RecorderStatus = 'idle' | 'filling' | 'waiting' | 'triggered' | 'done';

const REGISTER = { levels: 3, ticks: 4, value: 8, mask: 9, before: 10, control: 11, offset: 12 } as const;
const ARM = 1n;
const STOP = 2n;
const TICK_BITS = 20;
const TICK_CLOCKS = 20_000;
/** Edges for a request to pass the synchronisers. */
const CROSSING_CLOCKS = 8;
const CHUNK_BITS = 1 << 16;

/** The host's side of one recorder. */
export class RecorderClient {
  readonly #hub: HubClient;
  readonly #map: RecorderMap;

  constructor(hub: HubClient, map: RecorderMap) {
    this.#hub = hub;
    this.#map = map;
  }

  /** Waits for `(sample & mask) == value`, with `before` samples kept from before it. */
  async arm(value: bigint, mask: bigint, before: number): Promise<void> {
    const { core, width } = this.#map;
    const count = Math.ceil(width / 32);
    const words = (bits: bigint) => Array.from({ length: count }, (_, i) => (bits >> BigInt(32 * i)) & 0xffffffffn);
    this.#hub.write(core, REGISTER.value, words(value));
    this.#hub.write(core, REGISTER.mask, words(mask));
    this.#hub.write(core, REGISTER.before, [BigInt(before)]);
    this.#hub.write(core, REGISTER.control, [ARM]);
    this.#hub.clock(CROSSING_CLOCKS);
    await this.#hub.flush();
  }

  async stop(): Promise<void> {
    this.#hub.write(this.#map.core, REGISTER.control, [STOP]);
    this.#hub.clock(CROSSING_CLOCKS);
    await this.#hub.flush();
  }

  async status(): Promise<RecorderStatus> {
    const [levels = 0n] = await this.#hub.read(this.#map.core, REGISTER.levels, 1);
    if (levels & 1n) return 'done';
    if (levels & 2n) return 'triggered';
    if (levels & 4n) return 'waiting';
    return levels & 8n ? 'filling' : 'idle';
  }

  /** Measured frequency of the sampling clock in hertz against TCK; 0 when it stands still. */
  async sampleRate(tckHz: number): Promise<number> {
    const { queue } = this.#hub;
    // Both counts are taken in one batch: between batches a board goes on for as long as it likes.
    const start = queue.counts.tckCycles;
    const first = this.#ticks();
    const apart = queue.counts.tckCycles - start + TICK_CLOCKS;
    this.#hub.clock(TICK_CLOCKS);
    const second = this.#ticks();
    await this.#hub.flush();
    const span = 2 ** TICK_BITS;
    return (((await second) - (await first) + span) % span) / (apart / tckHz);
  }

  /** All samples, oldest first: `depth` words of `width` bits, packed without gaps. */
  async read(watch: Watch): Promise<Bits> {
    const { core, width, depth } = this.#map;
    const out = new Uint8Array(packedLength(width * depth));
    const step = Math.max(8, 2 ** Math.floor(Math.log2(CHUNK_BITS / width)));
    for (let sample = 0; sample < depth; sample += step) {
      stopIfCancelled(watch, 'The capture is still in the recorder.');
      watch.report({ phase: 'Reading', done: sample, total: depth, unit: 'samples' });
      const count = Math.min(step, depth - sample);
      this.#hub.write(core, REGISTER.offset, [BigInt(sample)]);
      const bits = await this.#hub.stream(core, count * width);
      copyBits(bits.bytes, 0, out, sample * width, count * width);
    }
    this.#hub.queue.countPayload(width * depth);
    return { length: width * depth, bytes: out };
  }

  async #ticks(): Promise<number> {
    // The word is captured after the pause; the count that crosses is Gray coded, one bit changing at a time.
    const [gray = 0n] = await this.#hub.readLater(this.#map.core, REGISTER.ticks, 1);
    let binary = Number(gray);
    for (let shift = 1; shift < TICK_BITS; shift <<= 1) binary ^= binary >>> shift;
    return binary;
  }
}
