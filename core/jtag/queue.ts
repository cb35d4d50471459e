import { type Bits, packedLength, setBit } from '../bits/index.ts';
import { item } from '../lists.ts';
import type { Cable, CableOp } from './cable.ts';
import { nextState, type TapState, tmsPath } from './tap.ts';

/** What scans have cost so far. Payload bits are counted by whoever knows which bits were worth sending. */
export interface ScanCounts {
  readonly tckCycles: number;
  readonly payloadBits: number;
}

/**
 * Cable traffic of one batch: no more than about half a second of TCK, so that progress shows, a cancel is heard and a
 * lost cable is noticed soon, whatever the frequency; and no more than a message should carry.
 */
const BATCH_SECONDS = 0.5;
const MOST_BATCH_BITS = 1 << 19;
const LEAST_BATCH_BITS = 64;
/** Batches are sent ahead while less than this is on its way, so that the way there and back is not waited for. */
const AHEAD_SECONDS = 0.3;
const MOST_AHEAD = 16;

/**
 * Collects scans and sends them to the cable in batches. Owns the knowledge of which state the TAPs are in.
 * Every scan starts from a stable state and ends in Run-Test/Idle unless told otherwise.
 */
export class ScanQueue {
  readonly #cable: Cable;
  #state: TapState | null = null;
  #ops: CableOp[] = [];
  #captures: ((bytes: Uint8Array) => void)[] = [];
  #underWay: Promise<void> | null = null;
  #tckCycles = 0;
  #payloadBits = 0;

  constructor(cable: Cable) {
    this.#cable = cable;
  }

  get counts(): ScanCounts {
    return { tckCycles: this.#tckCycles, payloadBits: this.#payloadBits };
  }

  get cable(): Cable {
    return this.#cable;
  }

  /** TCK cycles that a batch may have at the cable's present frequency; whole bytes. */
  get #batchBits(): number {
    const bits = this.#cable.tckHz * BATCH_SECONDS;
    return Math.max(LEAST_BATCH_BITS, Math.min(MOST_BATCH_BITS, Math.floor(bits / 8) * 8));
  }

  countPayload(bits: number): void {
    this.#payloadBits += bits;
  }

  /** Five TCK with TMS 1 reach Test-Logic-Reset from any state (IEEE 1149.1), then on to Run-Test/Idle. */
  reset(): void {
    this.#tms([1, 1, 1, 1, 1]);
    this.#state = 'Test-Logic-Reset';
    this.goto('Run-Test/Idle');
  }

  /** Moves to a state by the shortest way. */
  goto(state: TapState): void {
    if (this.#state === null) return this.#resetThen(state);
    const path = tmsPath(this.#state, state);
    if (path.length > 0) this.#tms(path);
    this.#state = state;
  }

  /** Queues an instruction scan over the whole chain; resolves to the captured bits when flushed. */
  ir(bits: Bits): void {
    this.#scan('Shift-IR', bits, false);
  }

  irCapture(bits: Bits): Promise<Bits> {
    return this.#scan('Shift-IR', bits, true);
  }

  /** Queues a data scan over the whole chain, TDO not wanted. */
  dr(bits: Bits): void {
    this.#scan('Shift-DR', bits, false);
  }

  /** Part of one long data scan, TDO not wanted. The TAPs stay in Shift-DR until the last piece. */
  drPiece(bits: Bits, last: boolean): void {
    this.goto('Shift-DR');
    this.#shift(bits, false, last);
    if (!last) return;
    this.#state = 'Exit1-DR';
    this.goto('Run-Test/Idle');
  }

  /** Queues a data scan and resolves to its TDO bits once a flush has carried it out. */
  drCapture(bits: Bits): Promise<Bits> {
    return this.#scan('Shift-DR', bits, true);
  }

  /** TCK cycles in the present state, which must be one that TMS 0 does not leave. */
  clock(count: number): void {
    const most = this.#batchBits;
    for (let left = count; left > 0; left -= most) {
      const some = Math.min(left, most);
      this.#push({ kind: 'clock', count: some }, some);
    }
  }

  /** Any time at all: it is passed in pieces. */
  wait(microseconds: number): void {
    const most = BATCH_SECONDS * 1e6;
    for (let left = microseconds; left > 0; left -= most)
      this.#push({ kind: 'wait', microseconds: Math.min(left, most) }, 0);
  }

  /** Asserts or releases TRST. An asserted one holds all TAPs in Test-Logic-Reset. */
  trst(asserted: boolean): void {
    this.#push({ kind: 'trst', asserted }, 0);
    this.#state = asserted ? 'Test-Logic-Reset' : null;
  }

  /** A scan that ends in a stable state of the caller's choice, optionally with its answer. */
  scanTo(register: 'DR' | 'IR', bits: Bits, end: TapState, capture: boolean): Promise<Bits> {
    return this.#scan(register === 'DR' ? 'Shift-DR' : 'Shift-IR', bits, capture, end);
  }

  /**
   * Moves along states that follow each other in the diagram, one TCK each. Returns false, moving nothing, when two of
   * them do not.
   */
  follow(path: readonly TapState[]): boolean {
    if (this.#state === null) this.reset();
    let from = this.#state as TapState;
    const tms: (0 | 1)[] = [];
    for (const state of path) {
      const bit = ([0, 1] as const).find((b) => nextState(from, b) === state);
      if (bit === undefined) return false;
      tms.push(bit);
      from = state;
    }
    if (tms.length > 0) this.#tms(tms);
    this.#state = from;
    return true;
  }

  get state(): TapState | null {
    return this.#state;
  }

  /**
   * Sends what is queued, a few batches ahead of the answers. `onBits` hears of each batch that was carried out.
   * Rejects with `ProblemError` when the cable is lost; the queue is then empty again.
   */
  async flush(onBits?: (sent: number) => void): Promise<void> {
    // One that is under way takes what is queued here along; where it fails, that is lost with it.
    while (this.#underWay) await this.#underWay;
    this.#underWay = this.#carryOut(onBits);
    try {
      await this.#underWay;
    } finally {
      this.#underWay = null;
    }
  }

  async #carryOut(onBits?: (sent: number) => void): Promise<void> {
    const ahead: Batch[] = [];
    try {
      while (this.#ops.length > 0 || ahead.length > 0) {
        while (this.#ops.length > 0 && mayGoAhead(ahead)) ahead.push(this.#send());
        const [batch] = ahead;
        if (!batch) break;
        const replies = await batch.replies;
        ahead.shift();
        for (const [i, done] of batch.captures.entries()) done(item(replies, i));
        onBits?.(batch.bits);
      }
    } catch (error) {
      this.#ops = [];
      this.#captures = [];
      this.#state = null;
      // What was sent ahead is on its way; whoever uses the cable next must not meet it.
      await Promise.allSettled(ahead.map(({ replies }) => replies));
      throw error;
    }
  }

  /** Takes the next batch from the queue and gives it to the cable. */
  #send(): Batch {
    const most = this.#batchBits;
    let count = 0;
    let bits = 0;
    let seconds = 0;
    while (count < this.#ops.length) {
      const op = item(this.#ops, count);
      const more = op.kind === 'wait' ? op.microseconds / 1e6 : cyclesOf(op) / this.#cable.tckHz;
      if (count > 0 && (bits + cyclesOf(op) > most || seconds + more > BATCH_SECONDS * 1.01)) break;
      bits += cyclesOf(op);
      seconds += more;
      count++;
    }
    const ops = this.#ops.splice(0, count);
    const captures = this.#captures.splice(0, ops.filter((op) => op.kind === 'shift' && op.capture).length);
    const replies = this.#cable.run(ops);
    // A later batch may fail while an earlier one is still waited for.
    replies.catch(() => {});
    return { captures, bits, seconds, replies };
  }

  /** A scan of which the answer is wanted at once. */
  async exchangeDr(bits: Bits): Promise<Bits> {
    const answer = this.drCapture(bits);
    await this.flush();
    return answer;
  }

  async exchangeIr(bits: Bits): Promise<Bits> {
    const answer = this.irCapture(bits);
    await this.flush();
    return answer;
  }

  #resetThen(state: TapState): void {
    this.reset();
    this.goto(state);
  }

  #scan(shift: 'Shift-DR' | 'Shift-IR', bits: Bits, capture: boolean, end: TapState = 'Run-Test/Idle'): Promise<Bits> {
    this.goto(shift);
    const pieces = this.#shift(bits, capture, true);
    this.#state = nextState(shift, 1);
    this.goto(end);
    if (!capture) return Promise.resolve({ length: 0, bytes: new Uint8Array(0) });
    return Promise.all(pieces).then((parts) => ({ length: bits.length, bytes: joinBytes(parts) }));
  }

  /** One scan in pieces that each fit a batch; TMS rises on the last cycle where it `exits`. */
  #shift(bits: Bits, capture: boolean, exits: boolean): Promise<Uint8Array>[] {
    const most = this.#batchBits;
    const pieces: Promise<Uint8Array>[] = [];
    for (let at = 0; at < bits.length; at += most) {
      const count = Math.min(most, bits.length - at);
      const tdi = bits.bytes.subarray(at >>> 3, (at >>> 3) + packedLength(count));
      this.#push({ kind: 'shift', count, tdi, capture, exit: exits && at + count === bits.length }, count);
      if (capture) pieces.push(new Promise((resolve) => this.#captures.push(resolve)));
    }
    return pieces;
  }

  #tms(path: readonly (0 | 1)[]): void {
    const tms = new Uint8Array(packedLength(path.length));
    for (const [i, bit] of path.entries()) setBit(tms, i, bit);
    this.#push({ kind: 'tms', count: path.length, tms }, path.length);
  }

  #push(op: CableOp, cycles: number): void {
    this.#ops.push(op);
    this.#tckCycles += cycles;
  }
}

interface Batch {
  readonly captures: readonly ((bytes: Uint8Array) => void)[];
  readonly bits: number;
  readonly seconds: number;
  readonly replies: Promise<readonly Uint8Array[]>;
}

/** Always one more than is being carried out; more while they are short. */
const mayGoAhead = (ahead: readonly Batch[]): boolean =>
  ahead.length < 2 ||
  (ahead.length < MOST_AHEAD && ahead.reduce((sum, { seconds }) => sum + seconds, 0) < AHEAD_SECONDS);

const cyclesOf = (op: CableOp): number => (op.kind === 'wait' || op.kind === 'trst' ? 0 : op.count);

/** Pieces are cut at multiples of eight bits, so their bytes join without shifting. */
function joinBytes(parts: readonly Uint8Array[]): Uint8Array {
  if (parts.length === 1) return item(parts, 0);
  const out = new Uint8Array(parts.reduce((sum, part) => sum + part.length, 0));
  let at = 0;
  for (const part of parts) {
    out.set(part, at);
    at += part.length;
  }
  return out;
}
