import type { z } from 'zod';
import { base64FromBytes, bytesFromBase64 } from '../bits/index.ts';
import type { BoardHands, BootSource } from '../board/index.ts';
import type { Cable, CableOp, CableState } from '../jtag/index.ts';
import { type Problem, ProblemError } from '../result.ts';
import type { LineSettings } from '../serial/index.ts';
import type { LineAccess } from './line-access.ts';
import { problem } from './problems.ts';
import {
  POD_PROTOCOL,
  type HeardOnLine,
  type PodCapabilities,
  type PodDeed,
  podReply,
  type PodReply,
  podResults,
  type PodRequest,
  type PodStatusEvent,
  type ToldDeed,
  toWire,
} from './protocol.ts';
import type { StagedFile } from './staged.ts';

/** What the client needs of a WebSocket; Node and browsers have their own kinds. */
interface PodSocket {
  send(text: string): void;
  close(): void;
  onMessage(listener: (text: string) => void): void;
  onClose(listener: () => void): void;
}

interface PodHello {
  readonly pod: string;
  readonly state: CableState;
  readonly capabilities: PodCapabilities;
}

/** A file on its way to the pod. `sha256` is 64 hexadecimal digits. */
interface FileToStage {
  readonly name: string;
  readonly size: number;
  readonly sha256: string;
  readonly bytes: Iterable<Uint8Array> | AsyncIterable<Uint8Array>;
}

const PIECE_BYTES = 1 << 18;
/**
 * Not how long an answer takes is limited, but how long a pod that owes one says nothing of it. Pictures of the board
 * are no answer: they go on while a request has got lost.
 */
const SILENCE_MILLISECONDS = 15_000;
const NOTHING: PodCapabilities = {
  power: false,
  bootSwitch: false,
  reconfigure: false,
  reset: false,
  view: false,
  practice: false,
  line: false,
  bench: false,
};

type Unnumbered = PodRequest extends infer R ? (R extends PodRequest ? Omit<R, 'id'> : never) : never;

/** A pod at the other end of a socket; to the engine it is a cable. */
export class PodClient implements Cable, LineAccess {
  readonly #socket: PodSocket;
  readonly #waiting = new Map<number, { resolve: (result: unknown) => void; reject: (error: Error) => void }>();
  readonly #lost: ((why: Problem) => void)[] = [];
  #status: (status: PodStatusEvent) => void = () => {};
  #deed: (deed: ToldDeed) => void = () => {};
  #line: (heard: HeardOnLine) => void = () => {};
  #next = 1;
  #ended: Problem | null = null;
  #silence: ReturnType<typeof setTimeout> | null = null;
  tckHz = 1;
  capabilities = NOTHING;

  constructor(socket: PodSocket) {
    this.#socket = socket;
    socket.onMessage((text) => this.#heard(text));
    socket.onClose(() => this.#end(podLost()));
  }

  get closed(): boolean {
    return this.#ended !== null;
  }

  /** Hears once why the connection ended. */
  onLost(listener: (why: Problem) => void): void {
    if (this.#ended) listener(this.#ended);
    else this.#lost.push(listener);
  }

  /** What this pod can do to its board beside the cable. */
  get hands(): BoardHands {
    const { power, reconfigure, reset } = this.capabilities;
    return {
      ...(power ? { power: (on: boolean) => this.setPower(on) } : {}),
      ...(reconfigure ? { reconfigure: () => this.reconfigure() } : {}),
      ...(reset ? { reset: () => this.reset() } : {}),
    };
  }

  close(): void {
    this.#socket.close();
  }

  /** Must come first. Rejects when the token is wrong. */
  async hello(token: string, client: string): Promise<PodHello> {
    const met = await this.#askFor(podResults.hello, { method: 'hello', token, client, protocol: POD_PROTOCOL });
    this.tckHz = met.state.tckHz;
    this.capabilities = met.capabilities;
    return met;
  }

  /** One user at a time: rejects with who holds the pod. */
  async lease(): Promise<void> {
    await this.#ask({ method: 'lease' });
  }

  async release(): Promise<void> {
    if (!this.closed) await this.#ask({ method: 'release' });
  }

  async run(ops: readonly CableOp[]): Promise<readonly Uint8Array[]> {
    const answers = (await this.#askFor(podResults.run, { method: 'run', ops: ops.map(toWire) })).map(bytesFromBase64);
    const wanted = ops.flatMap((op) => (op.kind === 'shift' && op.capture ? [op.count] : []));
    if (answers.length === wanted.length && answers.every(({ length }, i) => length * 8 >= (wanted[i] ?? 0)))
      return answers;
    throw this.#refuse('A scan came back with fewer bits than were shifted.');
  }

  async state(): Promise<CableState> {
    const state = await this.#askFor(podResults.state, { method: 'state' });
    this.tckHz = state.tckHz;
    return state;
  }

  async setFrequency(hz: number, keep = false): Promise<number> {
    this.tckHz = await this.#askFor(podResults.frequency, { method: 'frequency', hz, keep });
    return this.tckHz;
  }

  /** Makes something go wrong on a bench that can, or mends it. */
  async setFault(name: string, on: boolean): Promise<void> {
    await this.#ask({ method: 'fault', name, on });
  }

  async setPower(on: boolean): Promise<void> {
    await this.#ask({ method: 'power', on });
  }

  async reconfigure(): Promise<void> {
    await this.#ask({ method: 'reconfigure' });
  }

  async reset(): Promise<void> {
    await this.#ask({ method: 'reset' });
  }

  async setBootSource(source: BootSource): Promise<void> {
    await this.#ask({ method: 'boot-source', source });
  }

  /** Presses, releases or flips a control of the board. */
  async operate(name: string, on: boolean): Promise<void> {
    await this.#ask({ method: 'operate', name, on });
  }

  /** Tells whoever holds the pod that somebody else would like it. */
  async askForLease(): Promise<void> {
    await this.#ask({ method: 'ask' });
  }

  /**
   * Sends a file to the pod, which checks size and digest. Resolves to its number there. Where
   * `onSent` throws, what was sent so far is dropped.
   */
  async stage(file: FileToStage, onSent: (bytes: number) => void = () => {}): Promise<number> {
    const { name, size, sha256 } = file;
    const { id } = await this.#askFor(podResults.stage, { method: 'stage', name, bytes: size, sha256 });
    let sent = 0;
    try {
      for await (const whole of file.bytes)
        for (let at = 0; at < whole.length; at += PIECE_BYTES) {
          const piece = whole.subarray(at, at + PIECE_BYTES);
          await this.#ask({ method: 'stage-piece', file: id, data: base64FromBytes(piece) });
          sent += piece.length;
          onSent(sent);
        }
    } catch (error) {
      // Half a file is of no use to anybody, and takes the place of another.
      await this.dropStaged(id).catch(() => {});
      throw error;
    }
    await this.#ask({ method: 'stage-check', file: id });
    return id;
  }

  async staged(): Promise<readonly StagedFile[]> {
    return this.#askFor(podResults.staged, { method: 'staged' });
  }

  async dropStaged(file: number): Promise<void> {
    await this.#ask({ method: 'stage-drop', file });
  }

  /** Asks the pod to stop carrying a file out; how that ends is in the file's log. */
  async stopStaged(file: number): Promise<void> {
    await this.#ask({ method: 'stage-stop', file });
  }

  /** The pod carries a staged file out by itself; needs no lease here, the pod holds its own meanwhile. */
  async execute(file: number, what: 'load' | 'svf', device: number | null): Promise<void> {
    await this.#ask({ method: 'execute', file, what, device });
  }

  /** Tells others at this pod what was done to the board. */
  async tell(deed: PodDeed): Promise<void> {
    await this.#ask({ method: 'tell', deed: { ...deed, leaves: deed.leaves ?? false } });
  }

  /**
   * Hears of the pod and its board whenever something changes; `onDeed` of what others did, from the last of it that
   * the pod still knows on.
   */
  async watch(listener: (status: PodStatusEvent) => void, onDeed: (deed: ToldDeed) => void = () => {}): Promise<void> {
    this.#status = listener;
    this.#deed = onDeed;
    await this.#ask({ method: 'watch' });
  }

  /** Has a simulation stand on another bench; the connection ends, and is made anew with that one. */
  async useBenchFile(text: string): Promise<void> {
    await this.#ask({ method: 'bench-file', text });
  }

  /** Sets what a dial of the board reads. */
  async turn(name: string, value: number): Promise<void> {
    await this.#ask({ method: 'turn', name, value });
  }

  async setLine(settings: LineSettings): Promise<LineSettings> {
    return this.#askFor(podResults['line-settings'], { method: 'line-settings', settings });
  }

  async sendOnLine(bytes: Uint8Array): Promise<number> {
    return this.#askFor(podResults['line-send'], { method: 'line-send', data: base64FromBytes(bytes) });
  }

  async holdLineLow(milliseconds: number): Promise<void> {
    await this.#ask({ method: 'line-low', milliseconds });
  }

  async dropOnLine(): Promise<void> {
    await this.#ask({ method: 'line-drop' });
  }

  async listenToLine(from: number | null, listener: (heard: HeardOnLine) => void) {
    this.#line = listener;
    return this.#askFor(podResults['line-listen'], { method: 'line-listen', from });
  }

  async #askFor<T>(shape: z.ZodType<T>, request: Unnumbered): Promise<T> {
    const read = shape.safeParse(await this.#ask(request));
    if (read.success) return read.data;
    throw this.#refuse(`The answer to "${request.method}" is none.`);
  }

  #ask(request: Unnumbered): Promise<unknown> {
    if (this.#ended) return Promise.reject(new ProblemError(this.#ended));
    const id = this.#next++;
    return new Promise((resolve, reject) => {
      this.#waiting.set(id, { resolve, reject });
      this.#listen();
      this.#socket.send(JSON.stringify({ id, ...request }));
    });
  }

  /** Begins to count silence anew, as long as an answer is owed. */
  #listen(): void {
    if (this.#silence) clearTimeout(this.#silence);
    this.#silence =
      this.#waiting.size === 0
        ? null
        : setTimeout(() => {
            this.#end(podSilent());
            this.#socket.close();
          }, SILENCE_MILLISECONDS);
  }

  /** Whatever comes that no pod of this release would send ends the connection with a reason; it is made anew. */
  #heard(text: string): void {
    if (this.#ended) return;
    let data: unknown;
    try {
      data = JSON.parse(text);
    } catch {
      this.#refuse('What came is no JSON.');
      return;
    }
    const read = podReply.safeParse(data);
    if (read.success) this.#take(read.data);
    else this.#refuse(`What came is no message of the protocol: ${read.error.issues[0]?.message ?? ''}.`);
  }

  #take(reply: PodReply): void {
    if ('event' in reply) {
      if (reply.event === 'status') this.tckHz = reply.status.cable.tckHz;
      // A listener's own fault must not pass for the pod's.
      try {
        if (reply.event === 'status') this.#status(reply.status);
        else if (reply.event === 'deed') this.#deed(reply.deed);
        else this.#line(reply.line);
      } catch (error) {
        console.error(error);
      }
      return;
    }
    const waiting = this.#waiting.get(reply.id);
    if (!waiting) {
      // The number was another when it left here: whoever asked under that would wait for ever.
      this.#refuse('An answer came to a request that was not made.');
      return;
    }
    if ('ok' in reply) this.#waiting.delete(reply.id);
    this.#listen();
    if (!('ok' in reply)) return;
    if (reply.ok) waiting.resolve(reply.result);
    else waiting.reject(new ProblemError(reply.problem));
  }

  #refuse(what: string): ProblemError {
    const why = problem('pod-garbled', { what });
    this.#end(why);
    this.#socket.close();
    return new ProblemError(why);
  }

  #end(why: Problem): void {
    if (this.#ended) return;
    this.#ended = why;
    if (this.#silence) clearTimeout(this.#silence);
    for (const { reject } of this.#waiting.values()) reject(new ProblemError(why));
    this.#waiting.clear();
    for (const listener of this.#lost) listener(why);
  }
}

const podSilent = (): Problem => problem('pod-silent', { silenceMilliseconds: SILENCE_MILLISECONDS / 1000 });

const podLost = (): Problem => problem('pod-lost');
