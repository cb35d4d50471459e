import type { Bits } from '../bits/index.ts';
import { copyBits, getBit, packedLength } from '../bits/index.ts';
import { fail, ok, problem, type Result } from '../result.ts';
import { stopIfCancelled, type Watch } from '../progress.ts';
import type { HubClient } from './hub-client.ts';
import { type RecorderMap, wordBits } from './map.ts';
import type { Relation, TriggerProgram } from './program.ts';

export type RecorderStatus = 'idle' | 'filling' | 'waiting' | 'triggered' | 'done';

const KIND = 0x52430004n;
const REGISTER = { kind: 0, levels: 3, ticks: 4, held: 5, seen: 32, value: 8, mask: 9, before: 10, control: 11, offset: 12, select: 13, relation: 15, table: 16, times: 17, within: 18, lastStage: 19, keep: 20, segments: 21 } as const;
const ARM = 1n;
const STOP = 2n;
const LOOK = 4n;
const FORCE = 8n;
/** Bit 0 same, 1 below, 2 the opposite, 3 against the sample before. */
const RELATIONS: Readonly<Record<Relation, bigint>> = { equal: 0b0001n, below: 0b0010n, changes: 0b1101n, rises: 0b1111n, falls: 0b1010n };
const IN_A_ROW = 1n << 31n;
const OTHERWISE_BIT = 24n;
const TICK_BITS = 20;
const TICK_CLOCKS = 20_000;
/** Edges for a request to pass the synchronisers. */
const CROSSING_CLOCKS = 8;
/** As many for a sampling clock of a hundredth of TCK, and enough to measure it on the way. */
const LOOK_CLOCKS = 2000;
const CHUNK_BITS = 1 << 16;

/** What a recorder tells while it waits. */
export interface RecorderLook {
  readonly status: RecorderStatus;
  /** Stage that is waited for, from 0. */
  readonly stage: number;
  /** Whether each comparator is true now. */
  readonly now: readonly boolean[];
  /** Samples since arming in which each was true; wraps at 2^24. */
  readonly seen: readonly number[];
  /** While filling: samples that are still to come before a trigger counts. */
  readonly left: number;
  /** Segment that is being filled, from 0. */
  readonly segment: number;
  /** Frequency of the sampling clock in hertz, as measured during the look. */
  readonly hertz: number;
}

/** Where the trigger stands: `before` samples are kept from before it, in each of `segments` equal parts of the buffer. */
export interface Placement {
  readonly before: number;
  readonly segments: number;
}

function statusOf(levels: bigint): RecorderStatus {
  if (levels & 1n) return 'done';
  if (levels & 2n) return 'triggered';
  if (levels & 4n) return 'waiting';
  return levels & 8n ? 'filling' : 'idle';
}

/** The host's side of one recorder. */
export class RecorderClient {
  readonly #hub: HubClient;
  readonly #map: RecorderMap;

  constructor(hub: HubClient, map: RecorderMap) {
    this.#hub = hub;
    this.#map = map;
  }

  /** Whether the core means by its registers what this client does; one of an older release does not. */
  async isKnown(): Promise<boolean> {
    const [kind] = await this.#hub.read(this.#map.core, REGISTER.kind, 1);
    return kind === KIND;
  }

  /** Waits for a program to run through, in every segment anew. */
  async arm({ comparators, stages, keep }: TriggerProgram, { before, segments }: Placement): Promise<void> {
    const { core, width, depth, qualifier } = this.#map;
    const count = Math.ceil(width / 32);
    // The core keeps the last `width` bits that come in.
    const words = (bits: bigint) => Array.from({ length: count }, (_, i) => ((bits << BigInt(32 * count - width)) >> BigInt(32 * i)) & 0xffffffffn);
    for (const [i, { relation, value, mask }] of comparators.entries()) {
      this.#hub.write(core, REGISTER.select, [BigInt(i)]);
      this.#hub.write(core, REGISTER.value, words(value & mask));
      this.#hub.write(core, REGISTER.mask, words(mask));
      this.#hub.write(core, REGISTER.relation, [RELATIONS[relation]]);
    }
    for (const [i, { table, times, inARow, within, otherwise }] of stages.entries()) {
      this.#hub.write(core, REGISTER.select, [BigInt(i)]);
      this.#hub.write(core, REGISTER.table, [BigInt(table >>> 0)]);
      this.#hub.write(core, REGISTER.times, [BigInt(times - 1) | (inARow ? IN_A_ROW : 0n)]);
      this.#hub.write(core, REGISTER.within, [BigInt(within ?? 0) | (BigInt(otherwise) << OTHERWISE_BIT)]);
    }
    this.#hub.write(core, REGISTER.lastStage, [BigInt(stages.length - 1)]);
    if (qualifier) this.#hub.write(core, REGISTER.keep, [BigInt(keep >>> 0)]);
    if (this.#map.segments > 1) this.#hub.write(core, REGISTER.segments, [BigInt(depth / segments - 1) | (BigInt(segments - 1) << 16n)]);
    this.#hub.write(core, REGISTER.before, [BigInt(before)]);
    this.#hub.write(core, REGISTER.control, [ARM]);
    this.#hub.clock(CROSSING_CLOCKS);
    await this.#hub.flush();
  }

  /** What the comparators read now, how often each was true, and how far the recorder is; null while the sampling clock does not answer. */
  async look(tckHz: number): Promise<RecorderLook | null> {
    const { core, comparators } = this.#map;
    this.#hub.write(core, REGISTER.control, [LOOK]);
    const hertz = await this.#rate(tckHz, LOOK_CLOCKS);
    const [levels = 0n, , held = 0n, left = 0n] = await this.#hub.read(core, REGISTER.levels, 4);
    if (((levels >> 5n) & 1n) !== ((levels >> 4n) & 1n)) return null;
    const seen = await this.#hub.read(core, REGISTER.seen, comparators);
    return { status: statusOf(levels), stage: Number((held >> 8n) & 3n), now: Array.from({ length: comparators }, (_, i) => ((held >> BigInt(i)) & 1n) === 1n), seen: seen.map(Number), left: Number(left), segment: Number((held >> 16n) & 31n), hertz };
  }

  async stop(): Promise<void> {
    this.#hub.write(this.#map.core, REGISTER.control, [STOP]);
    this.#hub.clock(CROSSING_CLOCKS);
    await this.#hub.flush();
  }

  /** Triggers now, whatever the condition says. */
  async force(): Promise<void> {
    this.#hub.write(this.#map.core, REGISTER.control, [FORCE]);
    this.#hub.clock(CROSSING_CLOCKS);
    await this.#hub.flush();
  }

  async status(): Promise<RecorderStatus> {
    const [levels = 0n] = await this.#hub.read(this.#map.core, REGISTER.levels, 1);
    return statusOf(levels);
  }

  /** Measured frequency of the sampling clock in hertz against TCK; 0 when it stands still. */
  sampleRate(tckHz: number): Promise<number> {
    return this.#rate(tckHz, TICK_CLOCKS);
  }

  async #rate(tckHz: number, clocks: number): Promise<number> {
    const { queue } = this.#hub;
    // Both counts are taken in one batch: between batches a board goes on for as long as it likes.
    const start = queue.counts.tckCycles;
    const first = this.#ticks();
    const apart = queue.counts.tckCycles - start + clocks;
    this.#hub.clock(clocks);
    const second = this.#ticks();
    await this.#hub.flush();
    const span = 2 ** TICK_BITS;
    return (((await second) - (await first) + span) % span) / (apart / tckHz);
  }

  /** All words, packed without gaps: oldest first, in each segment if the buffer is divided. */
  async read(watch: Watch, { before, segments }: Placement): Promise<Result<Bits>> {
    const { core, depth } = this.#map;
    const bits = wordBits(this.#map);
    const out = new Uint8Array(packedLength(bits * depth));
    const step = Math.max(8, 2 ** Math.floor(Math.log2(CHUNK_BITS / bits)));
    for (let sample = 0; sample < depth; sample += step) {
      stopIfCancelled(watch, 'The capture is still in the recorder.');
      watch.report({ phase: 'Reading', done: sample, total: depth, unit: 'samples' });
      const count = Math.min(step, depth - sample);
      this.#hub.write(core, REGISTER.offset, [BigInt(sample)]);
      const part = await this.#hub.stream(core, count * bits);
      copyBits(part.bytes, 0, out, sample * bits, count * bits);
    }
    this.#hub.queue.countPayload(bits * depth);
    const data = { length: bits * depth, bytes: out };
    return this.#map.segments > 1 ? turned(data, bits, depth / segments, before) : ok(data);
  }

  async #ticks(): Promise<number> {
    // The word is captured after the pause; the count that crosses is Gray coded, one bit changing at a time.
    const [gray = 0n] = await this.#hub.readLater(this.#map.core, REGISTER.ticks, 1);
    let binary = Number(gray);
    for (let shift = 1; shift < TICK_BITS; shift <<= 1) binary ^= binary >>> shift;
    return binary;
  }
}

/** Turns each segment, as it lies in the buffer, so that its marked sample comes after `before` others. */
function turned(data: Bits, bits: number, size: number, before: number): Result<Bits> {
  const out = new Uint8Array(data.bytes.length);
  for (let base = 0; base * bits < data.length; base += size) {
    let mark = 0;
    while (mark < size && getBit(data.bytes, (base + mark + 1) * bits - 1) === 0) mark++;
    if (mark === size) return fail(problem('capture-broken', `Segment ${base / size + 1} has no sample that triggered.`, 'Arm again.', 'Scan more slowly: the read-out may have lost bits.'));
    const oldest = (mark - before + size) % size;
    copyBits(data.bytes, (base + oldest) * bits, out, base * bits, (size - oldest) * bits);
    copyBits(data.bytes, base * bits, out, (base + size - oldest) * bits, oldest * bits);
  }
  return ok({ length: data.length, bytes: out });
}
