import type { LineHeard, SerialLine } from '../core/pod/index.ts';
import { type LineSettings, type SerialFrame, SerialReceiver, SerialSender, USUAL_LINE } from '../core/serial/index.ts';
import type { BenchFile } from './bench-file.ts';
import type { Followed } from './corvane/index.ts';

type Wiring = NonNullable<BenchFile['board']['serial']>;

/** What a pod keeps while nobody takes it: frames, pulses to measure, and bytes that wait to be sent. */
const MOST_FRAMES = 1 << 16;
const MOST_PULSES = 1000;
const MOST_QUEUED = 1 << 16;
const [XON, XOFF] = [0x11, 0x13];
const [TX, RTS] = [1, 2];

/** Puts a level on a pin of the FPGA. */
export type SetPin = (pin: string, level: boolean) => void;

/**
 * The serial line of a board and the converter of the pod at its other end. Times in microseconds of the bench. `off`
 * makes the board's half run faster by so many percent than it means to.
 */
export class SerialPort implements SerialLine {
  readonly #wiring: Wiring;
  #settings: LineSettings = USUAL_LINE;
  #off = 0;
  #receiver: SerialReceiver;
  readonly #sender: SerialSender;
  #levels = TX;
  readonly #now: () => number;
  #frames: SerialFrame[] = [];
  #lost = 0;
  #pulses: number[] = [];
  #firstLevel: 0 | 1 = 1;
  /** When the line changed last. */
  #changed: number | null = null;
  /** The board has asked within its text not to be sent more. */
  #isHeld = false;
  #news: () => void = () => {};

  constructor(wiring: Wiring, now: () => number) {
    this.#wiring = wiring;
    this.#now = now;
    this.#receiver = new SerialReceiver(this.#settings, this.#bitTime);
    this.#sender = new SerialSender(this.#settings, this.#bitTime);
  }

  get #bitTime(): number {
    return (1e6 / this.#settings.rate) * (1 + this.#off / 100);
  }

  get followed(): Followed {
    const { tx, rts } = this.#wiring;
    return { moving: rts === undefined ? [tx] : [tx, rts], carried: [] };
  }

  /** What it puts on a pin of the FPGA; null for a pin that is not its. */
  external(pin: string): boolean | null {
    if (pin === this.#wiring.rx) return this.#sender.level;
    return pin === this.#wiring.cts ? false : null;
  }

  get pins(): readonly string[] {
    const { rx, cts } = this.#wiring;
    return cts === undefined ? [rx] : [rx, cts];
  }

  get nextLook(): number {
    return Math.min(this.#receiver.due, this.#sender.due(this.#maySend));
  }

  get #maySend(): boolean {
    if (this.#settings.flow === 'rts-cts') return this.#wiring.rts !== undefined && (this.#levels & RTS) === 0;
    return this.#settings.flow === 'none' || !this.#isHeld;
  }

  /** Its pins have changed: TX in bit 0, RTS in bit 1. */
  moved(at: number, levels: number): void {
    if ((levels ^ this.#levels) & TX) {
      const level = (levels & TX) === 1;
      if (this.#changed !== null) this.#pulse(at - this.#changed, level ? 0 : 1);
      this.#changed = at;
      this.#take(this.#receiver.edge(at, level));
    }
    this.#levels = levels;
  }

  /** Nothing drives its pins any more: they are pulled up. */
  released(now: number): void {
    this.moved(now, TX | RTS);
  }

  look(now: number, set: SetPin): void {
    this.#take(this.#receiver.passed(now));
    this.#sender.advance(now, this.#maySend, (level) => set(this.#wiring.rx, level));
  }

  #pulse(width: number, level: 0 | 1): void {
    if (this.#pulses.length >= MOST_PULSES) return;
    if (this.#pulses.length === 0) this.#firstLevel = level;
    this.#pulses.push(width / (1 + this.#off / 100));
  }

  #take(frame: SerialFrame | null): void {
    if (!frame) return;
    if (this.#settings.flow === 'xon-xoff' && frame.trouble === null && (frame.value === XON || frame.value === XOFF)) {
      this.#isHeld = frame.value === XOFF;
      return;
    }
    this.#frames.push(frame);
    if (this.#frames.length > MOST_FRAMES) this.#lost += this.#frames.splice(0, MOST_FRAMES >> 4).length;
    if (this.#frames.length === 1) this.#news();
  }

  /** The board's clock is off by so many percent. */
  set off(percent: number) {
    this.#off = percent;
    this.#begin();
  }

  #begin(): void {
    this.#isHeld = false;
    this.#receiver = new SerialReceiver(this.#settings, this.#bitTime, (this.#levels & TX) === 1);
    this.#sender.become(this.#settings, this.#bitTime);
  }

  async set(settings: LineSettings): Promise<LineSettings> {
    this.#settings = settings;
    this.#begin();
    return this.#settings;
  }

  async send(bytes: Uint8Array): Promise<number> {
    const taken = bytes.subarray(0, MOST_QUEUED - this.#sender.queued);
    this.#sender.queue(taken);
    return taken.length;
  }

  async holdLow(milliseconds: number): Promise<void> {
    this.#sender.holdLow(milliseconds * 1000);
  }

  async drop(): Promise<void> {
    this.#sender.drop();
  }

  get state(): SerialLine['state'] {
    const waits = this.#sender.queued > 0 && !this.#maySend;
    return { settings: this.#settings, queued: this.#sender.queued, waits };
  }

  onNews(listener: () => void): void {
    this.#news = listener;
  }

  take(): LineHeard {
    const heard: LineHeard = {
      now: this.#now(),
      frames: this.#frames,
      lost: this.#lost,
      pulses: this.#pulses.length > 0 ? { level: this.#firstLevel, widths: this.#pulses.map((us) => us / 1e6) } : null,
    };
    this.#frames = [];
    this.#pulses = [];
    this.#lost = 0;
    return heard;
  }
}
