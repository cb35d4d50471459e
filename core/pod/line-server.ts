import { base64FromBytes } from '../bits/index.ts';
import { frameBits, type SerialFrame } from '../serial/index.ts';
import type { HeardOnLine } from './protocol.ts';
import type { SerialLine } from './target.ts';

/** Frames that are kept for those who come later, or do not keep up. */
const MOST_KEPT = 1 << 16;
/** Of one message. */
const MOST_FRAMES = 1 << 12;
const SOON_MILLISECONDS = 20;
/** Frames follow each other without a pause where the next one begins within so many times the last one's length. */
const NO_PAUSE = 1.3;

/** Somebody who hears what comes on the line. */
export interface LineListener {
  /** Whether it takes messages now. */
  readonly isReady: () => boolean;
  readonly hear: (heard: HeardOnLine) => void;
}

/** What comes on a serial line, told to everybody who listens, each at their own pace; numbered from the pod's start. */
export class LineServer {
  readonly #line: SerialLine;
  #frames: SerialFrame[] = [];
  /** Number of the first frame that is kept. */
  #first = 0;
  #now = 0;
  readonly #next = new Map<LineListener, number>();
  #timer: ReturnType<typeof setTimeout> | null = null;

  constructor(line: SerialLine) {
    this.#line = line;
    line.onNews(() => this.#soon());
  }

  get #end(): number {
    return this.#first + this.#frames.length;
  }

  /** From a number on, as far as it is still there; null from now on. Gives the number that comes next. */
  listen(listener: LineListener, from: number | null): number {
    this.#take();
    const next = from === null || from > this.#end ? this.#end : from;
    this.#next.set(listener, next);
    this.#soon();
    return next;
  }

  leave(listener: LineListener): void {
    this.#next.delete(listener);
  }

  close(): void {
    if (this.#timer) clearTimeout(this.#timer);
  }

  #soon(): void {
    this.#timer ??= setTimeout(() => {
      this.#timer = null;
      this.#tell(this.#take());
    }, SOON_MILLISECONDS);
  }

  #take(): HeardOnLine['pulses'] {
    const { frames, lost, now, pulses } = this.#line.take();
    this.#now = now;
    if (lost > 0) {
      // The numbers of what nobody took are left out.
      this.#first = this.#end + lost;
      this.#frames = [];
    }
    for (const frame of frames) this.#frames.push(frame);
    const tooMany = this.#frames.length - MOST_KEPT;
    if (tooMany > 0) {
      this.#frames.splice(0, tooMany);
      this.#first += tooMany;
    }
    return pulses && { level: pulses.level, nanoseconds: pulses.widths.map((seconds) => Math.round(seconds * 1e9)) };
  }

  #tell(pulses: HeardOnLine['pulses']): void {
    let isBehind = false;
    const { settings } = this.#line.state;
    const frameTime = (frameBits(0, settings).length * 1e6) / settings.rate;
    for (const [listener, next] of this.#next) {
      const from = Math.max(next, this.#first);
      const frames = this.#frames.slice(from - this.#first, from - this.#first + MOST_FRAMES);
      if (frames.length === 0 && pulses === null) continue;
      if (listener.isReady()) {
        listener.hear({ first: from, lost: from - next, now: this.#now, ...packed(frames, from, frameTime), pulses });
        this.#next.set(listener, from + frames.length);
      }
      if ((this.#next.get(listener) ?? 0) < this.#end) isBehind = true;
    }
    if (isBehind) this.#soon();
  }
}

/** Frames as runs without pauses between them, and what is wrong with some of them. Times in microseconds. */
function packed(
  frames: readonly SerialFrame[],
  first: number,
  frameTime: number,
): Pick<HeardOnLine, 'runs' | 'troubles'> {
  const runs: SerialFrame[][] = [];
  for (const frame of frames) {
    const run = runs.at(-1);
    const last = run?.at(-1);
    if (run && last && frame.at - last.at < NO_PAUSE * frameTime) run.push(frame);
    else runs.push([frame]);
  }
  return {
    runs: runs.map((run) => {
      const [from, to] = [run[0]?.at ?? 0, run.at(-1)?.at ?? 0];
      const every = run.length > 1 ? (to - from) / (run.length - 1) : 0;
      return { at: from, every, data: base64FromBytes(Uint8Array.from(run, ({ value }) => value)) };
    }),
    troubles: frames.flatMap(({ trouble }, i) => (trouble === null ? [] : [{ byte: first + i, trouble }])),
  };
}
