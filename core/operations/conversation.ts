import { bytesHeard, type HeardOnLine, type LineAccess } from '../pod/index.ts';
import { stopIfCancelled, type Watch } from '../progress.ts';
import { type Fit, fittingSettings, LineLog, type PulseRun, TextWatch } from '../serial/index.ts';

/** Pulses that what fits is worked out from. */
const MOST_PULSES = 4000;
const AT_ONCE_BYTES = 4096;
const AGAIN_MILLISECONDS = 20;

/** What is said over a serial line, as long as somebody listens: its lines, and what its pulses tell of its settings. */
export class Conversation {
  readonly log = new LineLog();
  #runs: PulseRun[] = [];
  #fit: { readonly of: readonly PulseRun[]; readonly fit: Fit | null } = { of: [], fit: null };
  readonly #waits = new Set<{ readonly watch: TextWatch; readonly found: () => void }>();

  /** `now` in milliseconds since 1970. */
  heard(message: HeardOnLine, now: number): void {
    if (message.lost > 0) this.log.note(`${message.lost} bytes came faster than they were taken, and are lost`, now);
    const bytes = bytesHeard(message, now);
    this.log.heard(bytes);
    if (message.pulses) this.#keep(message.pulses);
    if (this.#waits.size === 0) return;
    const values = Uint8Array.from(bytes, ({ value }) => value);
    for (const wait of this.#waits) if (wait.watch.feed(values)) wait.found();
  }

  #keep({ level, nanoseconds }: NonNullable<HeardOnLine['pulses']>): void {
    this.#runs = [...this.#runs, { level, widths: nanoseconds.map((one) => one / 1e9) }];
    let sum = this.#runs.reduce((all, { widths }) => all + widths.length, 0);
    while (sum > MOST_PULSES && this.#runs.length > 1) sum -= this.#runs.shift()?.widths.length ?? 0;
  }

  /** The settings that fit what came lately; null where that is too little, or nothing fits. */
  get fit(): Fit | null {
    if (this.#fit.of !== this.#runs) this.#fit = { of: this.#runs, fit: fittingSettings(this.#runs) };
    return this.#fit.fit;
  }

  /** What came before is another line's, or was spoken otherwise. */
  forgetPulses(): void {
    this.#runs = [];
  }

  /** Whether a text comes within a time, from now on; `stop` gives the waiting up. */
  waitFor(text: string, milliseconds: number): { readonly found: Promise<boolean>; readonly stop: () => void } {
    let stop = () => {};
    const found = new Promise<boolean>((resolve) => {
      const wait = { watch: new TextWatch(text), found: () => end(true) };
      const timer = setTimeout(() => end(false), milliseconds);
      const end = (is: boolean) => {
        clearTimeout(timer);
        this.#waits.delete(wait);
        resolve(is);
      };
      stop = () => end(false);
      this.#waits.add(wait);
    });
    return { found, stop };
  }
}

/**
 * Sends bytes as fast as the line takes them. When it is cancelled, what waits at the pod is dropped. Gives how many
 * have left for the pod.
 */
export async function sendAll(line: LineAccess, bytes: Uint8Array, watch: Watch): Promise<number> {
  for (let at = 0; at < bytes.length; ) {
    watch.report({ phase: 'sending', done: at, total: bytes.length, unit: 'bytes' });
    if (watch.cancelled()) {
      await line.dropOnLine();
      stopIfCancelled(watch, `${at} of ${bytes.length} bytes have left for the pod; what waited there was dropped.`);
    }
    const taken = await line.sendOnLine(bytes.subarray(at, at + AT_ONCE_BYTES));
    at += taken;
    if (taken === 0) await new Promise((resolve) => setTimeout(resolve, AGAIN_MILLISECONDS));
  }
  watch.report({ phase: 'sending', done: bytes.length, total: bytes.length, unit: 'bytes' });
  return bytes.length;
}
