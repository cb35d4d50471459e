import type { Bits } from '../bits/index.ts';
import { copyBits, getBit, packedLength, sliceBits } from '../bits/index.ts';
import { fail, ok, type Result } from '../result.ts';
import { problem } from './problems.ts';
import { stopIfCancelled, type Watch } from '../progress.ts';
import { checkRate, type ClockRate, measureRate, type RateEffort } from './clock-rate.ts';
import type { HubClient } from './hub-client.ts';
import { type RecorderMap, wordBits } from './map.ts';
import type { TriggerProgram } from './program.ts';
import {
  comparatorRows,
  onceBy,
  onceWords,
  type Placement,
  type RecorderStatus,
  rowWords,
  settingsRow,
  tableWords,
  type Told,
  toldBy,
  toldWords,
} from './recorder-words.ts';

/** Of more than two stages the row of settings is another one. */
const kindOf = ({ stages }: RecorderMap): bigint => (stages > 2 ? 0x52430007n : 0x52430006n);
const REGISTER = {
  kind: 0,
  told: 1,
  settings: 0,
  chosen: 1,
  row: 2,
  control: 3,
  readAt: 4,
  tables: 5,
} as const;
/** Rows of a comparator's tables are the upper bits of the register's number. */
const ROW_SHIFT = 4;
const ARM = 1n;
const STOP = 2n;
const LOOK = 4n;
const FORCE = 8n;
/** For the time axis: to one in ten thousand, where a quarter of a second is enough for that. */
const SAMPLE_RATE: RateEffort = { edges: 20_000, seconds: 0.25 };
/** While it waits: enough to see that the clock is alive and near what it was. */
const LOOK_RATE: RateEffort = { edges: 1000, seconds: 0.01 };
/** As long for a sampling clock of 32 kHz, in seconds. */
const LOOK_SECONDS = 250e-6;
const LEAST_LOOK_CLOCKS = 16;
const CHUNK_BITS = 1 << 16;
const READ_WITHIN = 16;

/** What a recorder tells while it waits. */
interface RecorderLook {
  readonly status: RecorderStatus;
  /** Stage that is waited for, from 0. */
  readonly stage: number;
  /** Whether each comparator is true now. */
  readonly now: readonly boolean[];
  /** Samples since arming in which each was true; wraps at 2^24 - 1. */
  readonly seen: readonly number[];
  /** Samples that are still to come before a trigger counts; 0 but while filling. */
  readonly left: number;
  /** Segment that is being filled, from 0. */
  readonly segment: number;
  /** Frequency of the sampling clock in hertz, as measured during the look; null where it cannot be told. */
  readonly hertz: number | null;
}

/** What a recorder tells at once, and, while its sampling clock answers, of what it waits for. */
export interface RecorderState {
  readonly status: RecorderStatus;
  readonly look: RecorderLook | null;
}

/** How much of the buffer a stopped recorder had filled. */
export interface Filled {
  /** Segments that are complete. */
  readonly segments: number;
  /** Samples still to come in the one after them, which has triggered; null where there is none such. */
  readonly left: number | null;
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
    return kind === kindOf(this.#map);
  }

  /** Waits for a program to run through, in every segment anew. */
  async arm(program: TriggerProgram, placement: Placement): Promise<void> {
    const { core, width } = this.#map;
    for (const [i, comparator] of program.comparators.entries()) {
      this.#hub.write(core, REGISTER.chosen, [1n << BigInt(i)]);
      for (const [at, row] of comparatorRows(comparator, width).entries())
        this.#hub.write(core, REGISTER.row | (at << ROW_SHIFT), rowWords(row));
    }
    this.#hub.write(core, REGISTER.tables, tableWords(this.#map, program));
    this.#hub.write(core, REGISTER.settings, rowWords(settingsRow(this.#map, program, placement)));
    this.#hub.write(core, REGISTER.control, [ARM]);
    this.#hub.cross();
    await this.#hub.flush();
  }

  /**
   * What the comparators read now, how often each was true, and how far the recorder is; `look` is null while the
   * sampling clock does not answer. With the rate the clock is known to have, all of it is one batch.
   */
  async look(tckHz: number, { before }: Placement, expectedHz: number | null = null): Promise<RecorderState> {
    this.#ask(LOOK, lookClocks(tckHz));
    const answer = this.#told();
    const rate = await this.#rate(tckHz, LOOK_RATE, expectedHz);
    const { status, answered, stage, hits, seen, count, segment } = await answer;
    if (!answered) return { status, look: null };
    return {
      status,
      look: {
        status,
        stage,
        now: hits,
        seen,
        // Once it waits, the count is that of what comes after the trigger.
        left: status === 'filling' ? before - count : 0,
        segment,
        hertz: rate.known ? rate.hertz : null,
      },
    };
  }

  async stop(): Promise<void> {
    this.#hub.write(this.#map.core, REGISTER.control, [STOP]);
    this.#hub.cross();
    await this.#hub.flush();
  }

  /** Triggers now, whatever the condition says. */
  async force(): Promise<void> {
    this.#hub.write(this.#map.core, REGISTER.control, [FORCE]);
    this.#hub.cross();
    await this.#hub.flush();
  }

  /**
   * Ends a recording before its buffer is full; what it had stored stays there. Null while the sampling clock does not
   * answer.
   */
  async halt(tckHz: number, { segments: parts }: Placement): Promise<Filled | null> {
    const wait = lookClocks(tckHz);
    this.#ask(LOOK, wait);
    const before = this.#told();
    this.#ask(STOP, wait);
    this.#ask(LOOK, wait);
    const now = this.#told();
    await this.#hub.flush();
    const [was, is] = await Promise.all([before, now]);
    if (!is.answered) return null;
    if (was.status === 'done') return { segments: is.segment + 1, left: null };
    const size = this.#map.depth / parts;
    // When a segment ended in between, whether the next one has triggered is not known: it is left out.
    const isSame = was.status === 'triggered' && is.segment === was.segment;
    return { segments: is.segment, left: isSame ? size - 1 - is.count : null };
  }

  /** Measured frequency of the sampling clock in hertz against TCK; 0 when it stands still. */
  sampleRate(tckHz: number): Promise<ClockRate> {
    return this.#rate(tckHz, SAMPLE_RATE);
  }

  #rate(tckHz: number, effort: RateEffort, expectedHz: number | null = null): Promise<ClockRate> {
    const { queue } = this.#hub;
    const reader = {
      read: (pause: number) => this.#ticks(pause),
      clock: (count: number) => this.#hub.clock(count),
      cycles: () => queue.counts.tckCycles,
      flush: () => this.#hub.flush(),
    };
    return expectedHz === null ? measureRate(reader, tckHz, effort) : checkRate(reader, tckHz, expectedHz, effort);
  }

  /**
   * All words, packed without gaps: oldest first, in each segment if the buffer is divided. Of a recorder that was
   * halted, what it had stored: its complete segments, then what there is of the one that had triggered.
   */
  async read(watch: Watch, { before, segments }: Placement, filled: Filled | null = null): Promise<Result<Bits>> {
    const { core, depth } = this.#map;
    const bits = wordBits(this.#map);
    const out = new Uint8Array(packedLength(bits * depth));
    const step = Math.max(8, 2 ** Math.floor(Math.log2(CHUNK_BITS / bits)));
    // A divided buffer is read as it lies: its triggers are marked. An undivided one begins where it would be written next.
    const first = this.#map.segments > 1 ? 0 : await this.#writeAt();
    for (let sample = 0; sample < depth; sample += step) {
      stopIfCancelled(watch, 'The capture is still in the recorder.');
      watch.report({ phase: 'Reading', done: sample, total: depth, unit: 'samples' });
      const count = Math.min(step, depth - sample);
      this.#hub.write(core, REGISTER.readAt, [BigInt((first + sample) % depth)]);
      const part = await this.#hub.stream(core, count * bits);
      copyBits(part.bytes, 0, out, sample * bits, count * bits);
    }
    this.#hub.queue.countPayload(bits * depth);
    const data = { length: bits * depth, bytes: out };
    const size = depth / segments;
    const complete = filled ? filled.segments : segments;
    const left = filled?.left ?? null;
    // A buffer in one piece is read from what came first: what is still to come would have taken the place of that.
    if (this.#map.segments === 1) return ok(left === null ? data : sliceBits(data, left * bits, (size - left) * bits));
    const sizes = [...Array<number>(complete).fill(size), ...(left === null ? [] : [size - left])];
    return turned(data, bits, size, before, sizes);
  }

  /** What was read at the first trigger, by the names of the signals; of a recorder that has triggered. */
  async atTrigger(): Promise<ReadonlyMap<string, bigint>> {
    const { first, count } = onceWords(this.#map);
    const words: bigint[] = [];
    // One read goes on within sixteen registers alone.
    while (words.length < count) {
      const at = REGISTER.told + first + words.length;
      const most = Math.min(count - words.length, READ_WITHIN - (at % READ_WITHIN));
      words.push(...(await this.#hub.read(this.#map.core, at, most)));
    }
    return onceBy(this.#map, words);
  }

  /** Where a buffer at rest would be written next. */
  async #writeAt(): Promise<number> {
    const told = this.#told();
    await this.#hub.flush();
    return (await told).writeAt;
  }

  #ask(control: bigint, wait: number): void {
    this.#hub.write(this.#map.core, REGISTER.control, [control]);
    this.#hub.clock(wait);
  }

  /** Delivered by a later flush. */
  async #told(count = toldWords(this.#map)): Promise<Told> {
    return toldBy(this.#map, await this.#hub.readLater(this.#map.core, REGISTER.told, count));
  }

  /** The clock's steps when a look was asked for; delivered by a later flush. */
  async #ticks(pause: number): Promise<number | null> {
    this.#ask(LOOK, pause);
    // They are in the first word.
    const { answered, ticks } = await this.#told(1);
    return answered ? ticks : null;
  }
}

const lookClocks = (tckHz: number): number => Math.max(LEAST_LOOK_CLOCKS, Math.ceil(LOOK_SECONDS * tckHz));

/**
 * Turns each segment, as it lies in the buffer, so that its marked sample comes after `before` others; `sizes` says how
 * many samples of each are to be kept. A segment is filled from its beginning on, so of several marks the first one is
 * not left from before.
 */
function turned(data: Bits, bits: number, size: number, before: number, sizes: readonly number[]): Result<Bits> {
  const kept = sizes.reduce((sum, one) => sum + one, 0);
  const out = new Uint8Array(packedLength(kept * bits));
  let to = 0;
  for (const [segment, count] of sizes.entries()) {
    const base = segment * size;
    let mark = 0;
    while (mark < size && getBit(data.bytes, (base + mark + 1) * bits - 1) === 0) mark++;
    if (mark === size) return fail(problem('capture-broken', { segment: segment + 1 }));
    const oldest = (mark - before + size) % size;
    const straight = Math.min(count, size - oldest);
    copyBits(data.bytes, (base + oldest) * bits, out, to * bits, straight * bits);
    copyBits(data.bytes, base * bits, out, (to + straight) * bits, (count - straight) * bits);
    to += count;
  }
  return ok({ length: kept * bits, bytes: out });
}
