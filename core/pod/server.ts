import { base64FromBytes } from '../bits/index.ts';
import { type CableOp, type CableState, runInPieces } from '../jtag/index.ts';
import { type Problem, ProblemError, problem as plainProblem } from '../result.ts';
import { LineServer, type LineListener } from './line-server.ts';
import { problem } from './problems.ts';
import {
  fromBase64,
  fromWire,
  POD_PROTOCOL,
  podRequest,
  type PodReply,
  type PodRequest,
  type PodStatusEvent,
  type ToldDeed,
} from './protocol.ts';
import { type CarryOut, Staging, type StageShelf } from './staging.ts';
import type { PodTarget } from './target.ts';

/** What the server needs of one connection. */
interface ServerSocket {
  send(text: string): void;
  close(code: number): void;
  /** Breaks the connection as a pulled network cable does: without a word. */
  terminate(): void;
  /** Bytes that were sent and are not taken yet. */
  readonly pending: () => number;
  onMessage(listener: (text: string) => void): void;
  onClose(listener: () => void): void;
}

interface PodServerOptions {
  readonly isToken: (text: string) => boolean;
  /** Tells one start of the pod from another, so that nobody hears of a deed twice. */
  readonly startedAs: string;
  /** How a staged file is carried out. */
  readonly carryOut: CarryOut;
  /** Where staged files lie; in memory where nothing is said. */
  readonly shelf?: StageShelf;
}

/** What is shown is looked at this often while it changes, and this often while it rests. */
const BUSY_MILLISECONDS = 40;
const REST_MILLISECONDS = 200;
const RESTS_AFTER_LOOKS = 25;
const STILL_HERE_MILLISECONDS = 1000;
/** After a lost connection nobody gets in for this long. */
const DEAF_MILLISECONDS = 4000;
/** Deeds that are remembered for those who come later. */
const MOST_DEEDS = 50;
/** A connection that takes nothing gets no pictures meanwhile. */
const MOST_PENDING_BYTES = 1 << 16;
/** Connections at once, and of those how many that have not said hello yet. */
const MOST_CONNECTIONS = 64;
const MOST_STRANGERS = 16;
const SOON_MILLISECONDS = 50;
const HELLO_MILLISECONDS = 10_000;
/** Requests of one connection that wait to be answered; our own client keeps a few. */
const MOST_OWED = 256;
/** Codes of WebSocket closes: RFC 6455, 7.4.1 and 7.4.2. */
const CLOSE = { notJson: 1007, tooMany: 1013, refused: 4001, noHello: 4008, otherBench: 4009 } as const;
/** The fault that is the pod's own. */
const LOSES_CONNECTION = 'pod-lost';

type Answer = { readonly result: unknown } | { readonly refused: Problem };
type Of<M extends PodRequest['method']> = Extract<PodRequest, { method: M }>;

interface Session {
  readonly socket: ServerSocket;
  name: string | null;
  watching: boolean;
  /** How it hears what comes on the serial line; null where it does not listen. */
  ears: LineListener | null;
  gone: boolean;
  /** Requests that came and are not answered yet. */
  owed: number;
}

/**
 * The pod's end of the protocol over whatever it owns: one user of the cable at a time, everybody may look. Requests of
 * one connection are answered in order. docs/pod-protocol.md
 */
export class PodServer {
  #target: PodTarget;
  readonly #options: PodServerOptions;
  #staging: Staging;
  #line: LineServer | null;
  readonly #sessions = new Set<Session>();
  readonly #deeds: { readonly deed: ToldDeed; readonly session: Session }[] = [];
  #holder: Session | null = null;
  #asked: Session | null = null;
  #deedCount = 0;
  #deafUntil = 0;
  #shown = '';
  #quiet = 0;
  #timer: ReturnType<typeof setTimeout> | null = null;

  constructor(target: PodTarget, options: PodServerOptions) {
    this.#target = target;
    this.#options = options;
    this.#staging = new Staging(target, options.carryOut, options.shelf);
    this.#line = target.line ? new LineServer(target.line) : null;
  }

  /** Whether new connections are let in just now. */
  get hears(): boolean {
    return Date.now() >= this.#deafUntil;
  }

  connect(socket: ServerSocket): void {
    const strangers = [...this.#sessions].filter(({ name }) => name === null).length;
    if (this.#sessions.size >= MOST_CONNECTIONS || strangers >= MOST_STRANGERS) return socket.close(CLOSE.tooMany);
    const session: Session = { socket, name: null, watching: false, ears: null, gone: false, owed: 0 };
    this.#sessions.add(session);
    const deadline = setTimeout(() => session.name === null && socket.close(CLOSE.noHello), HELLO_MILLISECONDS);
    let last: Promise<void> = Promise.resolve();
    socket.onMessage((text) => {
      if (session.gone) return;
      if (session.owed >= MOST_OWED) return socket.close(CLOSE.tooMany);
      session.owed++;
      last = last.then(async () => {
        await this.#serve(session, text);
        session.owed--;
        // What was under way when the connection ended had the cable until now.
        if (session.gone && this.#holder === session) this.#free();
      });
    });
    socket.onClose(() => {
      clearTimeout(deadline);
      session.gone = true;
      this.#sessions.delete(session);
      if (session.ears) this.#line?.leave(session.ears);
      if (this.#asked === session) this.#asked = null;
      if (this.#holder === session && session.owed === 0) this.#free();
    });
  }

  close(): void {
    if (this.#timer) clearTimeout(this.#timer);
    this.#line?.close();
    for (const { socket } of this.#sessions) socket.terminate();
  }

  #send(session: Session, message: PodReply): void {
    if (!session.gone) session.socket.send(JSON.stringify(message));
  }

  #free(): void {
    this.#holder = null;
    this.#target.kept?.();
  }

  /** Nothing is done any more for who has left. */
  async #serve(session: Session, text: string): Promise<void> {
    if (session.gone) return;
    let data: unknown;
    try {
      data = JSON.parse(text);
    } catch {
      return session.socket.close(CLOSE.notJson);
    }
    const read = podRequest.safeParse(data);
    if (!read.success) {
      return this.#send(session, {
        id: idOf(data),
        ok: false,
        problem: notUnderstood(read.error.issues[0]?.message ?? ''),
      });
    }
    const { id, method } = read.data;
    const beat = setInterval(() => this.#send(session, { id, done: 0, total: 0 }), STILL_HERE_MILLISECONDS);
    const answer = await this.#answer(session, read.data).finally(() => clearInterval(beat));
    if ('refused' in answer) this.#send(session, { id, ok: false, problem: answer.refused });
    else this.#send(session, { id, ok: true, result: answer.result });
    if (method === 'hello' && 'refused' in answer) session.socket.close(CLOSE.refused);
  }

  /** A fault of what the pod owns is that request's, not the pod's end. */
  async #answer(session: Session, request: PodRequest): Promise<Answer> {
    try {
      if (request.method === 'hello') return await this.#hello(session, request);
      if (session.name === null)
        return refuse('pod-token', 'The pod wants a token first.', 'Send hello with the token.');
      return (await this.#forAll(session, session.name, request)) ?? (await this.#forHolder(session, request));
    } catch (error) {
      if (error instanceof ProblemError) return { refused: error.problem };
      return refuse(
        'pod-fault',
        `The pod could not do this: ${error instanceof Error ? error.message : String(error)}`,
        'Try it again; start the pod anew if it stays so.',
      );
    }
  }

  async #hello(session: Session, request: Of<'hello'>): Promise<Answer> {
    if (request.protocol !== POD_PROTOCOL)
      return refuse(
        'pod-protocol',
        `The pod speaks protocol ${POD_PROTOCOL}, the client ${request.protocol}.`,
        'Use the same release for both.',
      );
    if (!this.#options.isToken(request.token))
      return refuse('pod-token', 'The pod refuses this token.', 'Copy the token from where the pod was started.');
    session.name = request.client;
    const { name, cable, controls, view, practice, line, rebuilt } = this.#target;
    const capabilities = {
      power: controls?.power !== undefined,
      bootSwitch: controls?.bootSource !== undefined,
      reconfigure: controls?.reconfigure !== undefined,
      reset: controls?.reset !== undefined,
      view: view !== undefined,
      practice: practice !== undefined,
      line: line !== undefined,
      bench: rebuilt !== undefined,
    };
    return { result: { pod: name, state: await cable.state(), capabilities } };
  }

  /** What needs no lease; null for what does. */
  async #forAll(session: Session, name: string, request: PodRequest): Promise<Answer | null> {
    const { controls, practice } = this.#target;
    switch (request.method) {
      case 'ask':
        this.#asked = session;
        return DONE;
      case 'tell':
        return this.#tell(session, name, request);
      case 'lease':
        return this.#lease(session);
      case 'release':
        if (this.#holder === session) this.#free();
        return DONE;
      case 'watch':
        return this.#watch(session);
      case 'operate':
        return (await controls?.operate?.(request.name, request.on))
          ? DONE
          : refuse('no-control', `The board has no control "${request.name}".`, 'Look at the board again.');
      case 'turn':
        return (await controls?.turn?.(request.name, request.value))
          ? DONE
          : refuse('no-control', `The board has no dial "${request.name}".`, 'Look at the board again.');
      case 'bench-file':
        return this.#rebuild(session, request.text);
      case 'boot-source':
        if (!controls?.bootSource) return lacks('boot switch', 'Set the switch on the board.');
        await controls.bootSource(request.source);
        return DONE;
      case 'reconfigure':
        if (!controls?.reconfigure) return lacks('reconfigure wire', 'Press the button on the board.');
        await controls.reconfigure();
        return DONE;
      case 'reset':
        if (!controls?.reset) return lacks('reset wire', 'Press the button on the board.');
        await controls.reset();
        return DONE;
      case 'state':
        return { result: await this.#target.cable.state() };
      case 'fault':
        if (request.name === LOSES_CONNECTION && practice) {
          this.#loseAll();
          return DONE;
        }
        return practice?.set(request.name, request.on)
          ? DONE
          : refuse('no-fault', `This pod has no fault "${request.name}".`, 'Choose one from the list.');
      default:
        return (await this.#onLine(session, request)) ?? (await this.#staged(request));
    }
  }

  /** Stands on another bench: every connection ends, and what is made anew finds that one. */
  #rebuild(session: Session, text: string): Answer {
    const { rebuilt } = this.#target;
    if (!rebuilt) return lacks('bench that could be another one', 'Change the board itself.');
    if (this.#holder && this.#holder !== session) return this.#inUse(this.#holder);
    const made = rebuilt(text);
    if (!made.ok) return { refused: made.error };
    this.#line?.close();
    this.#target = made.value;
    this.#staging = new Staging(made.value, this.#options.carryOut, this.#options.shelf);
    this.#line = made.value.line ? new LineServer(made.value.line) : null;
    this.#holder = null;
    // The answer leaves first.
    setTimeout(() => {
      for (const { socket } of this.#sessions) socket.close(CLOSE.otherBench);
    }, SOON_MILLISECONDS);
    return DONE;
  }

  /** The serial line is a wire of its own: whoever uses the cable is not in its way. Null for what is none of it. */
  async #onLine(session: Session, request: PodRequest): Promise<Answer | null> {
    if (!request.method.startsWith('line-')) return null;
    const { line } = this.#target;
    if (!line) return lacks('serial line', 'Connect one to the board itself.');
    switch (request.method) {
      case 'line-settings':
        return { result: await line.set(request.settings) };
      case 'line-send': {
        const bytes = fromBase64(request.data);
        return bytes ? { result: await line.send(bytes) } : { refused: notUnderstood('no base64') };
      }
      case 'line-low':
        await line.holdLow(request.milliseconds);
        return DONE;
      case 'line-drop':
        await line.drop();
        return DONE;
      case 'line-listen': {
        if (session.ears) this.#line?.leave(session.ears);
        session.ears = {
          isReady: () => session.socket.pending() < MOST_PENDING_BYTES,
          hear: (heard) => this.#send(session, { event: 'line', line: heard }),
        };
        return { result: { next: this.#line?.listen(session.ears, request.from) ?? 0, settings: line.state.settings } };
      }
      default:
        return null;
    }
  }

  async #staged(request: PodRequest): Promise<Answer | null> {
    switch (request.method) {
      case 'stage': {
        const opened = this.#staging.open(request.name, request.bytes, request.sha256);
        return 'refused' in opened ? opened : { result: opened };
      }
      case 'stage-piece': {
        const piece = fromBase64(request.data);
        return piece
          ? answerOf(await this.#staging.take(request.file, piece))
          : { refused: notUnderstood('no base64') };
      }
      case 'stage-check':
        return answerOf(await this.#staging.check(request.file));
      case 'stage-drop':
        return (await this.#staging.drop(request.file))
          ? DONE
          : refuse('stage-file', 'The pod holds no such file, or it is running.', 'Look at the list again.');
      case 'stage-stop':
        return this.#staging.stop(request.file)
          ? DONE
          : refuse('stage-file', 'The pod runs no such file.', 'Look at the list again.');
      case 'staged':
        return { result: this.#staging.files };
      case 'execute':
        return this.#execute(request);
      default:
        return null;
    }
  }

  #execute({ file, what, device }: Of<'execute'>): Answer {
    if (this.#holder) return this.#inUse(this.#holder);
    const own: Session = {
      socket: NOBODY,
      name: 'a staged file of its own',
      watching: false,
      ears: null,
      gone: false,
      owed: 0,
    };
    const found = this.#staging.execute(file, what, device, () => this.#holder === own && this.#free());
    if (!found) this.#holder = own;
    return answerOf(found);
  }

  #lease(session: Session): Answer {
    if (this.#holder && this.#holder !== session) return this.#inUse(this.#holder);
    if (this.#asked === session) this.#asked = null;
    this.#holder = session;
    return DONE;
  }

  #inUse({ name }: Session): Answer {
    return refuse('pod-busy', `The pod is in use by ${name}.`, 'Wait until that is done, or ask for it.');
  }

  #tell(session: Session, name: string, request: Of<'tell'>): Answer {
    const deed: ToldDeed = {
      ...request.deed,
      by: name,
      time: new Date().toISOString(),
      number: ++this.#deedCount,
      pod: this.#options.startedAs,
    };
    this.#deeds.push({ deed, session });
    if (this.#deeds.length > MOST_DEEDS) this.#deeds.shift();
    for (const other of this.#sessions)
      if (other !== session && other.watching) this.#send(other, { event: 'deed', deed });
    return DONE;
  }

  async #forHolder(session: Session, request: PodRequest): Promise<Answer> {
    if (this.#holder !== session)
      return refuse('pod-lease', 'Only the holder of the lease may use the cable.', 'Ask for the lease first.');
    const { cable, controls } = this.#target;
    switch (request.method) {
      case 'power':
        if (!controls?.power) return lacks('power switch', 'Switch the board by hand.');
        await controls.power(request.on);
        return DONE;
      case 'frequency':
        return { result: await cable.setFrequency(request.hz, request.keep) };
      case 'run': {
        const ops = request.ops.map(fromWire).filter((op): op is CableOp => op !== null);
        if (ops.length < request.ops.length)
          return { refused: notUnderstood('a scan is no base64, or carries fewer bits than it counts') };
        const captured = await runInPieces(cable, ops, () => !session.gone);
        return { result: captured?.map(base64FromBytes) ?? [] };
      }
      default:
        return { refused: notUnderstood(request.method) };
    }
  }

  /** The connection breaks as a pulled network cable breaks it: without a word. */
  #loseAll(): void {
    this.#deafUntil = Date.now() + DEAF_MILLISECONDS;
    for (const { socket } of this.#sessions) socket.terminate();
  }

  async #watch(session: Session): Promise<Answer> {
    session.watching = true;
    this.#send(session, { event: 'status', status: await this.#statusNow() });
    for (const { deed, session: by } of this.#deeds) if (by !== session) this.#send(session, { event: 'deed', deed });
    if (!this.#timer) this.#lookSoon();
    return DONE;
  }

  #lookSoon(): void {
    const soon = this.#quiet > RESTS_AFTER_LOOKS ? REST_MILLISECONDS : BUSY_MILLISECONDS;
    this.#timer = setTimeout(() => void this.#look(), soon);
  }

  /** Tells all who watch what has changed; ends where nobody watches. */
  async #look(): Promise<void> {
    const watchers = [...this.#sessions].filter(({ watching }) => watching);
    if (watchers.length === 0) {
      this.#timer = null;
      return;
    }
    try {
      const status = await this.#statusNow();
      const shown = JSON.stringify({ ...status, view: status.view && { ...status.view, time: 0 } });
      this.#quiet = shown === this.#shown ? this.#quiet + 1 : 0;
      this.#shown = shown;
      if (this.#quiet === 0)
        for (const session of watchers)
          if (session.socket.pending() < MOST_PENDING_BYTES) this.#send(session, { event: 'status', status });
    } catch {
      // A cable that cannot be asked now is asked again; who uses it hears why.
      this.#quiet++;
    }
    this.#lookSoon();
  }

  async #statusNow(): Promise<PodStatusEvent> {
    const { cable, view, practice, speed, line } = this.#target;
    const state: CableState = await cable.state();
    return {
      cable: state,
      lease: this.#holder?.name ?? null,
      asked: this.#asked?.name ?? null,
      speed: speed?.() ?? null,
      view: view?.() ?? null,
      line: line?.state ?? null,
      faults: [...(practice?.faults() ?? [])],
    };
  }
}

/** The number of a request that is not understood otherwise; 0 where there is none. */
const idOf = (data: unknown): number =>
  typeof data === 'object' && data !== null && 'id' in data && typeof data.id === 'number' ? data.id : 0;

const DONE: Answer = { result: null };

const NOBODY: ServerSocket = {
  send: () => {},
  close: () => {},
  terminate: () => {},
  pending: () => 0,
  onMessage: () => {},
  onClose: () => {},
};

const refuse = (code: string, message: string, ...tryNext: string[]): Answer => ({
  refused: plainProblem(code, message, ...tryNext),
});

const lacks = (what: string, instead: string): Answer => refuse('no-control', `This pod has no ${what}.`, instead);

const answerOf = (found: Problem | null): Answer => (found ? { refused: found } : DONE);

const notUnderstood = (what: string): Problem => problem('pod-request', { what });
