import type { LineHeard, SerialLine } from '../../core/pod/index.ts';
import { frameBits, type LineSettings, type SerialFrame, USUAL_LINE } from '../../core/serial/index.ts';
import type { WireLink } from './link.ts';
import { lineSendCommand, lineSetCommand, pinCommand } from './work.ts';

const MOST_QUEUED = 1 << 16;
const MOST_FRAMES = 1 << 16;
/** After the line had no room it is tried again. */
const AGAIN_MILLISECONDS = 10;
const [XON, XOFF] = [0x11, 0x13];
const PARITY_FORM = { none: 0, even: 1, odd: 2 } as const;

/**
 * The board's serial line behind the wire. Bytes come without the moments of their edges, so pulses are not measured,
 * and the times of bytes are those of their arrival.
 */
export class WireLine implements SerialLine {
  readonly #link: () => Promise<WireLink>;
  #settings: LineSettings = USUAL_LINE;
  #queue: number[] = [];
  #isSending = false;
  #isHeld = false;
  #frames: SerialFrame[] = [];
  #lost = 0;
  #news: () => void = () => {};

  constructor(link: () => Promise<WireLink>) {
    this.#link = link;
  }

  /** What a session begins with: the settings as they stand here. */
  async begin(link: WireLink): Promise<void> {
    link.onLine((bytes, lost) => this.#take(bytes, lost));
    await this.#tell(link, this.#settings);
  }

  /** The microcontroller has no wires of its own for a pause; characters within the text are heeded here. */
  async set(settings: LineSettings): Promise<LineSettings> {
    const wanted: LineSettings = settings.flow === 'rts-cts' ? { ...settings, flow: 'none' } : settings;
    await this.#tell(await this.#link(), wanted);
    this.#isHeld = false;
    return this.#settings;
  }

  async #tell(link: WireLink, wanted: LineSettings): Promise<void> {
    const { rate, dataBits, parity, stopBits } = wanted;
    const form = (dataBits - 5) | (PARITY_FORM[parity] << 2) | ((stopBits - 1) << 4);
    const [answer] = await link.send([lineSetCommand(rate, form)], true);
    this.#settings = {
      ...wanted,
      rate: answer ? new DataView(answer.buffer, answer.byteOffset).getUint32(0, true) : rate,
    };
  }

  async send(bytes: Uint8Array): Promise<number> {
    await this.#link();
    const taken = bytes.subarray(0, MOST_QUEUED - this.#queue.length);
    for (const byte of taken) this.#queue.push(byte);
    void this.#sendOn();
    return taken.length;
  }

  /** What the line at the other end takes, as it takes it. A lost wire forgets what waited. */
  async #sendOn(): Promise<void> {
    if (this.#isSending) return;
    this.#isSending = true;
    try {
      const link = await this.#link();
      while (this.#queue.length > 0) {
        const taken = this.#isHeld
          ? 0
          : ((await link.send([lineSendCommand(Uint8Array.from(this.#queue.slice(0, 31)))], true))[0]?.[0] ?? 0);
        this.#queue.splice(0, taken);
        if (taken === 0) await new Promise((resolve) => setTimeout(resolve, AGAIN_MILLISECONDS));
      }
    } catch {
      this.#queue = [];
    } finally {
      this.#isSending = false;
    }
  }

  async holdLow(milliseconds: number): Promise<void> {
    const link = await this.#link();
    await link.send([pinCommand('line', 'low')], true);
    await new Promise((resolve) => setTimeout(resolve, milliseconds));
    await link.send([pinCommand('line', 'letGo')], true);
  }

  async drop(): Promise<void> {
    this.#queue = [];
  }

  get state(): SerialLine['state'] {
    return { settings: this.#settings, queued: this.#queue.length, waits: this.#isHeld && this.#queue.length > 0 };
  }

  onNews(listener: () => void): void {
    this.#news = listener;
  }

  #take(bytes: Uint8Array, lost: number): void {
    const now = performance.now() * 1000;
    const each = (frameBits(0, this.#settings).length * 1e6) / this.#settings.rate;
    const wasEmpty = this.#frames.length === 0;
    this.#lost += lost;
    for (const [i, value] of bytes.entries()) {
      if (this.#settings.flow === 'xon-xoff' && (value === XON || value === XOFF)) this.#isHeld = value === XOFF;
      else this.#frames.push({ at: now - (bytes.length - i) * each, value, trouble: null });
    }
    if (this.#frames.length > MOST_FRAMES) this.#lost += this.#frames.splice(0, MOST_FRAMES >> 4).length;
    if (wasEmpty && this.#frames.length > 0) this.#news();
  }

  take(): LineHeard {
    const heard = { now: performance.now() * 1000, frames: this.#frames, lost: this.#lost, pulses: null };
    this.#frames = [];
    this.#lost = 0;
    return heard;
  }
}
