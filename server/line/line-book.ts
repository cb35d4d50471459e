import { Conversation } from '../../core/operations/index.ts';
import type { HeardOnLine } from '../../core/pod/index.ts';
import type { Fit } from '../../core/serial/index.ts';

/** What pages are told of the line; its lines are asked for. */
export interface LineState {
  /** Numbers of the first line that is still kept, and of the last one. */
  readonly first: number;
  readonly last: number;
  /** Grows with everything that is said, and when all is forgotten. */
  readonly version: number;
  readonly received: number;
  readonly sent: number;
  /** Frames with something wrong. */
  readonly wrong: number;
  /** Settings that fit what came lately; null where that cannot be told. */
  readonly fit: Fit | null;
}

/** Boards whose lines are kept, the last ones used. */
const MOST_BOARDS = 4;
/** What fits is worked out anew at most this often. */
const FIT_MILLISECONDS = 1000;

interface Kept {
  readonly talk: Conversation;
  /** Number of the byte that comes next from its pod. */
  next: number;
  version: number;
  fit: { readonly at: number; readonly fit: Fit | null };
}

/** Conversations by the boards they are with. */
export class LineBook {
  readonly #key: () => string;
  readonly #changed: () => void;
  readonly #kept = new Map<string, Kept>();
  #timer: ReturnType<typeof setTimeout> | null = null;

  /** `key` tells which board is in front of us. */
  constructor(key: () => string, changed: () => void) {
    this.#key = key;
    this.#changed = changed;
  }

  get #here(): Kept {
    const key = this.#key();
    const known = this.#kept.get(key);
    if (known) return known;
    const kept: Kept = { talk: new Conversation(), next: 0, version: 0, fit: { at: 0, fit: null } };
    this.#kept.set(key, kept);
    for (const [oldest] of this.#kept) if (this.#kept.size > MOST_BOARDS) this.#kept.delete(oldest);
    return kept;
  }

  /** The conversation with the board in front of us. */
  get talk(): Conversation {
    return this.#here.talk;
  }

  /** From which byte on its pod is to be heard: all that is not known yet. */
  get next(): number {
    return this.#here.next;
  }

  /** The pod is heard from this byte on, which may be another one than was asked for where it was started anew. */
  heardFrom(next: number): void {
    this.#here.next = next;
  }

  heard(message: HeardOnLine): void {
    const kept = this.#here;
    kept.talk.heard(message, Date.now());
    kept.next = message.first + message.runs.reduce((sum, { data }) => sum + bytesIn(data), 0);
    this.#moved(kept);
  }

  said(bytes: Uint8Array): void {
    this.talk.log.said(bytes, Date.now());
    this.#moved(this.#here);
  }

  /** Something that happened meanwhile, among what was said. */
  note(text: string): void {
    const kept = this.#here;
    // Where nothing was ever said there is nothing to stand among.
    if (kept.version === 0) return;
    kept.talk.log.note(text, Date.now());
    this.#moved(kept);
  }

  clear(): void {
    this.talk.log.clear();
    this.#moved(this.#here);
  }

  /** It is spoken otherwise from now on. */
  respoken(): void {
    this.talk.forgetPulses();
    this.#here.fit = { at: 0, fit: null };
    this.#moved(this.#here);
  }

  #moved(kept: Kept): void {
    kept.version++;
    this.#changed();
  }

  get state(): LineState {
    const kept = this.#here;
    const { first, last, received, sent, wrong } = kept.talk.log;
    const age = Date.now() - kept.fit.at;
    if (age >= FIT_MILLISECONDS) kept.fit = { at: Date.now(), fit: kept.talk.fit };
    else
      this.#timer ??= setTimeout(() => {
        this.#timer = null;
        this.#changed();
      }, FIT_MILLISECONDS - age).unref();
    return { first, last, version: kept.version, received, sent, wrong, fit: kept.fit.fit };
  }
}

/** Bytes of a text in base64. */
const bytesIn = (base64: string): number => (base64.length * 3) / 4 - (/=*$/.exec(base64)?.[0].length ?? 0);
