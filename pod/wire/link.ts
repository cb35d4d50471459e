import { type Problem, ProblemError } from '../../core/result.ts';
import { FrameReader, framed } from './frames.ts';
import {
  ANSWER_ROOM_BYTES,
  byeFrame,
  type FromPod,
  helloFrame,
  pollFrame,
  type Ready,
  readFrame,
  WIRE_VERSION,
  WORK_ROOM_BYTES,
  workFrame,
} from './messages.ts';
import type { BytePort, Whereabouts } from './port.ts';
import { problem } from './problems.ts';
import type { Body } from './work.ts';

/** After so long without a word the other end lets go of the board; we speak more often, and wait as long. */
const QUIET_MILLISECONDS = 3000;
const SPEAK_MILLISECONDS = 400;
const TICK_MILLISECONDS = 50;
/** A chip may start anew when its line is opened, and takes a while until it listens. */
const HELLO_MILLISECONDS = 4000;
const HELLO_AGAIN_MILLISECONDS = 250;
/** What a round trip takes at most before something is taken for lost; what lies on the line comes on top. */
const ROUND_TRIP_MILLISECONDS = 250;
const MOST_IN_FLIGHT = 100;
const BITS_A_BYTE = 10;
const NUMBERS = 256;

/** Sent, and not known to be carried out. */
interface Flight {
  readonly seq: number;
  readonly body: Body;
  answer: Uint8Array | null;
  isDone: boolean;
  readonly settle: Settle;
}

/** Not sent yet. */
interface Waiting {
  readonly body: Body;
  readonly settle: Settle;
}

interface Settle {
  readonly resolve: (answer: Uint8Array) => void;
  readonly reject: (why: ProblemError) => void;
}

/** What went over the wire, for measuring. */
interface WireCounts {
  readonly bytesSent: number;
  readonly bytesReceived: number;
  readonly framesAgain: number;
  readonly damaged: number;
  readonly mostInFlight: number;
}

const NOTHING = new Uint8Array(0);
const ZERO = Uint8Array.of(0);

/**
 * One session with the other end: work goes out in frames with numbers, as many as it has room for; what is lost or
 * damaged on the way is sent again, and carried out once. docs/wire.md, section 3
 */
export class WireLink {
  readonly ready: Ready;
  readonly #port: BytePort;
  readonly #at: Whereabouts;
  readonly #reader: FrameReader;
  #queue: Waiting[] = [];
  #flights: Flight[] = [];
  #seq = 0;
  #inUse = 0;
  /** Bytes of answers that arrived since the other end was last told. */
  #untold = 0;
  #poll = { number: 0, upTo: 0, isAnswered: true };
  #heard = Date.now();
  #spoke = Date.now();
  #moved = Date.now();
  #ended: Problem | null = null;
  readonly #timer: ReturnType<typeof setInterval>;
  readonly #onLost: ((why: Problem) => void)[] = [];
  #onLine: (bytes: Uint8Array, lost: number) => void = () => {};
  #lineNumber = 0;
  #counts = { bytesSent: 0, bytesReceived: 0, framesAgain: 0, mostInFlight: 0 };

  private constructor(port: BytePort, at: Whereabouts, ready: Ready, reader: FrameReader) {
    this.#port = port;
    this.#at = at;
    this.ready = ready;
    this.#reader = reader;
    this.#timer = setInterval(() => this.#tick(), TICK_MILLISECONDS);
  }

  /** Says hello until it is answered. Rejects with `ProblemError`; the port is then closed. */
  static async open(port: BytePort, at: Whereabouts): Promise<WireLink> {
    const reader = new FrameReader();
    const met = await meet(port, at, reader).catch((error: unknown) => {
      port.close();
      throw error;
    });
    const link = new WireLink(port, at, met, reader);
    port.onBytes((bytes) => link.#take(bytes));
    port.onGone((why) => link.#end(problem('wire-unplugged', { path: at.path, why })));
    return link;
  }

  get counts(): WireCounts {
    return { ...this.#counts, damaged: this.#reader.damaged };
  }

  get lost(): Problem | null {
    return this.#ended;
  }

  /** Hears once why the session ended. */
  onLost(listener: (why: Problem) => void): void {
    if (this.#ended) listener(this.#ended);
    else this.#onLost.push(listener);
  }

  /** Hears what comes on the board's serial line, and how many bytes before it are gone. */
  onLine(listener: (bytes: Uint8Array, lost: number) => void): void {
    this.#onLine = listener;
  }

  /**
   * Has bodies carried out in order, each once. Resolves to their answers. `soon` puts them before what waits here, not
   * before what is on its way.
   */
  async send(bodies: readonly Body[], soon = false): Promise<Uint8Array[]> {
    if (this.#ended) throw new ProblemError(this.#ended);
    const waiting: Waiting[] = [];
    const answers = bodies.map(
      (body) =>
        new Promise<Uint8Array>((resolve, reject) => {
          waiting.push({ body, settle: { resolve, reject } });
        }),
    );
    const all = Promise.all(answers);
    if (soon) this.#queue.unshift(...waiting);
    else for (const one of waiting) this.#queue.push(one);
    this.#pump();
    return all;
  }

  /** The other end lets go of the board at once. */
  close(): void {
    if (this.#ended) return;
    this.#write(byeFrame());
    this.#end(problem('wire-unplugged', { path: this.#at.path, why: 'this pod has closed it' }));
  }

  get #acked(): number {
    return this.#flights[0]?.seq ?? this.#seq;
  }

  #write(frame: Uint8Array): void {
    const bytes = framed(frame);
    this.#counts.bytesSent += bytes.length;
    this.#spoke = Date.now();
    this.#port.write(bytes);
  }

  #pump(): void {
    while (this.#queue.length > 0 && this.#flights.length < MOST_IN_FLIGHT) {
      const [next] = this.#queue;
      if (!next) return;
      const room = next.body.bytes.length + WORK_ROOM_BYTES;
      if (this.#flights.length > 0 && this.#inUse + room > this.ready.inBytes) break;
      this.#queue.shift();
      if (this.#flights.length === 0) this.#moved = Date.now();
      const flight: Flight = { seq: this.#seq, body: next.body, answer: null, isDone: false, settle: next.settle };
      this.#seq = (this.#seq + 1) % NUMBERS;
      this.#inUse += room;
      this.#flights.push(flight);
      this.#counts.mostInFlight = Math.max(this.#counts.mostInFlight, this.#flights.length);
      this.#sendFlight(flight);
    }
    // Answers that have arrived keep room there until it is said that they have.
    if (this.#untold > this.ready.outBytes / 3 && this.#flights.length > 0) {
      this.#untold = 0;
      this.#write(pollFrame(this.#acked, this.#poll.number, false));
    }
  }

  #sendFlight({ seq, body }: Flight): void {
    this.#untold = 0;
    this.#write(workFrame(seq, this.#acked, body.bytes));
  }

  #ask(): void {
    const number = (this.#poll.number + 1) % NUMBERS;
    this.#poll = { number, upTo: this.#seq, isAnswered: false };
    this.#write(pollFrame(this.#acked, number, true));
  }

  #take(bytes: Uint8Array): void {
    if (this.#ended) return;
    this.#counts.bytesReceived += bytes.length;
    const damaged = this.#reader.damaged;
    for (const frame of this.#reader.take(bytes)) {
      const message = readFrame(frame);
      if (message && !this.#ended) this.#heed(message);
    }
    if (this.#ended) return;
    if (this.#reader.damaged > damaged && this.#poll.isAnswered) this.#ask();
    this.#pump();
  }

  #heed(message: FromPod): void {
    this.#heard = Date.now();
    const { path } = this.#at;
    switch (message.kind) {
      case 'ready':
        return;
      case 'lost':
        return this.#end(problem(message.why === 'let-go' ? 'wire-let-go' : 'wire-restarted', { path }));
      case 'fault': {
        const { fault, at } = message;
        return this.#end(problem('wire-fault', { path, fault: FAULTS[fault] ?? `fault ${fault}`, at }));
      }
      case 'done':
        return this.#answered(message.seq, message.body);
      case 'line': {
        const lost = (message.number - this.#lineNumber + 0x10000) & 0xffff;
        this.#lineNumber = (message.number + message.bytes.length) & 0xffff;
        // A frame that came twice, or late, is none.
        return this.#onLine(message.bytes, lost < 0x8000 ? lost : 0);
      }
      case 'state':
        return this.#told(message);
    }
  }

  #answered(seq: number, answer: Uint8Array): void {
    const place = this.#flights.findIndex((flight) => flight.seq === seq);
    const flight = this.#flights[place];
    // An answer that has come before: it was sent again for the sake of another.
    if (!flight || flight.answer) return;
    if (answer.length !== flight.body.answer)
      return this.#end(
        problem('wire-garbled', {
          path: this.#at.path,
          what: `an answer of ${flight.body.answer} bytes came as ${answer.length}`,
        }),
      );
    flight.answer = answer;
    this.#untold += answer.length + ANSWER_ROOM_BYTES;
    for (const earlier of this.#flights.slice(0, place + 1)) this.#carriedOut(earlier);
    this.#land();
    // One before it has not come: it is asked for at once.
    if (this.#flights[0]?.isDone && this.#poll.isAnswered) this.#ask();
  }

  /** It takes no room any more, whether its answer is here or still on its way. */
  #carriedOut(flight: Flight): void {
    if (flight.isDone) return;
    flight.isDone = true;
    this.#inUse -= flight.body.bytes.length + WORK_ROOM_BYTES;
  }

  /** Flights that are over leave, in order. */
  #land(): void {
    for (;;) {
      const [first] = this.#flights;
      if (!first?.isDone || (first.body.answer > 0 && !first.answer)) break;
      this.#flights.shift();
      this.#moved = Date.now();
      first.settle.resolve(first.answer ?? NOTHING);
    }
  }

  #told({ next, expect, poll, again }: Extract<FromPod, { kind: 'state' }>): void {
    const done = distance(this.#acked, next);
    for (const flight of this.#flights.slice(0, done <= this.#flights.length ? done : 0)) this.#carriedOut(flight);
    this.#land();
    const isAnswer = poll === this.#poll.number && !this.#poll.isAnswered;
    if (isAnswer) this.#poll.isAnswered = true;
    // Whatever was sent before the question has arrived before it, or not at all.
    const isMissing = isAnswer && expect !== this.#poll.upTo && distance(expect, this.#poll.upTo) < NUMBERS / 2;
    if (again || isMissing) this.#sendAgainFrom(expect);
  }

  #sendAgainFrom(seq: number): void {
    const from = distance(this.#acked, seq);
    for (const flight of this.#flights.slice(from)) {
      this.#counts.framesAgain++;
      this.#sendFlight(flight);
    }
  }

  #tick(): void {
    const now = Date.now();
    const { path, baud } = this.#at;
    if (now - this.#heard > QUIET_MILLISECONDS)
      return this.#end(problem('wire-silent (later)', { path, seconds: QUIET_MILLISECONDS / 1000 }));
    const onLine = ((this.ready.inBytes + this.ready.outBytes) * BITS_A_BYTE * 1000) / baud;
    const patience = ROUND_TRIP_MILLISECONDS + 2 * onLine;
    const isStuck = this.#flights.length > 0 && now - Math.max(this.#moved, this.#heard) > patience;
    if (now - this.#spoke > (isStuck ? Math.min(patience, SPEAK_MILLISECONDS) : SPEAK_MILLISECONDS)) this.#ask();
  }

  #end(why: Problem): void {
    if (this.#ended) return;
    this.#ended = why;
    clearInterval(this.#timer);
    this.#port.close();
    const error = new ProblemError(why);
    for (const { settle } of [...this.#flights, ...this.#queue]) settle.reject(error);
    this.#flights = [];
    this.#queue = [];
    for (const listener of this.#onLost) listener(why);
  }
}

const FAULTS: Readonly<Record<number, string>> = {
  1: 'a command is cut off',
  2: 'no such command',
  3: 'too much to answer',
};

/** From one number on to another. */
const distance = (from: number, to: number): number => (to - from + NUMBERS) % NUMBERS;

/** Says hello until the answer to it comes; whatever else comes meanwhile is of a session before, or of something else. */
function meet(port: BytePort, at: Whereabouts, reader: FrameReader): Promise<Ready> {
  const session = 1 + Math.floor(Math.random() * 0xfffffffe);
  let heard: Uint8Array = NOTHING;
  const { path, baud } = at;
  return new Promise((resolve, reject) => {
    const finish = (end: () => void) => {
      clearInterval(again);
      clearTimeout(deadline);
      end();
    };
    const refuse = (why: Problem) => finish(() => reject(new ProblemError(why)));
    const hello = () => {
      // The zero ends what a session before may have left half said.
      port.write(ZERO);
      port.write(framed(helloFrame(session, QUIET_MILLISECONDS)));
    };
    const again = setInterval(hello, HELLO_AGAIN_MILLISECONDS);
    const deadline = setTimeout(() => {
      if (heard.length === 0) refuse(problem('wire-silent', { path, baud }));
      else refuse(problem('wire-not-ours', { path, baud, heard: preview(heard) }));
    }, HELLO_MILLISECONDS);
    port.onGone((why) => refuse(problem('wire-unplugged', { path, why })));
    port.onBytes((bytes) => {
      if (heard.length < PREVIEW_BYTES) heard = joined(heard, bytes.subarray(0, PREVIEW_BYTES));
      for (const frame of reader.take(bytes)) {
        const message = readFrame(frame);
        if (message?.kind !== 'ready' || message.session !== session) continue;
        if (message.version === WIRE_VERSION) finish(() => resolve(message));
        else refuse(problem('wire-version', { path, theirs: message.version, ours: WIRE_VERSION }));
        return;
      }
    });
    hello();
  });
}

const PREVIEW_BYTES = 16;

const joined = (a: Uint8Array, b: Uint8Array): Uint8Array => Uint8Array.from([...a, ...b]);

/** Its first bytes, as text where they are some. */
const preview = (bytes: Uint8Array): string =>
  bytes.every((byte) => (byte >= 0x20 && byte < 0x7f) || byte === 10 || byte === 13)
    ? `“${String.fromCharCode(...bytes).trim()}”`
    : [...bytes].map((byte) => byte.toString(16).padStart(2, '0')).join(' ');
