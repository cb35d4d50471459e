import { base64FromBytes, bytesFromBase64 } from '../bits/index.ts';
import type { Cable, CableOp, CableState, ChainMemory } from '../jtag/index.ts';
import { type Problem, ProblemError, problem } from '../result.ts';
import type { LivePanel, StagedFile } from './panel.ts';
import {
  POD_PROTOCOL,
  type PodDeed,
  type PodReply,
  type PodRequest,
  type ToldDeed,
  toldDeed,
  toWire,
} from './protocol.ts';

/** What the client needs of a WebSocket; Node and browsers have their own kinds. */
interface PodSocket {
  send(text: string): void;
  close(): void;
  onMessage(listener: (text: string) => void): void;
  onClose(listener: () => void): void;
}

interface PodHello {
  readonly pod: string;
  readonly tckHz: number;
}

const PIECE_BYTES = 1 << 18;
const SILENCE_MILLISECONDS = 15_000;

type Unnumbered = PodRequest extends infer R ? (R extends PodRequest ? Omit<R, 'id'> : never) : never;

/** A pod at the other end of a socket; to the engine it is a cable. */
export class PodClient implements Cable {
  chainMemory?: ChainMemory;
  readonly #socket: PodSocket;
  readonly #waiting = new Map<
    number,
    { resolve: (result: unknown) => void; reject: (error: Error) => void; timer: ReturnType<typeof setTimeout> }
  >();
  readonly #lost: (() => void)[] = [];
  #panel: (panel: LivePanel) => void = () => {};
  #deed: (deed: ToldDeed) => void = () => {};
  #next = 1;
  #closed = false;

  constructor(socket: PodSocket) {
    this.#socket = socket;
    socket.onMessage((text) => this.#take(JSON.parse(text) as PodReply));
    socket.onClose(() => this.#close());
  }

  get closed(): boolean {
    return this.#closed;
  }

  onLost(listener: () => void): void {
    if (this.#closed) listener();
    else this.#lost.push(listener);
  }

  close(): void {
    this.#socket.close();
  }

  /** Must come first. Rejects when the token is wrong. */
  hello(token: string, client: string): Promise<PodHello> {
    return this.#ask({ method: 'hello', token, client, protocol: POD_PROTOCOL }) as Promise<PodHello>;
  }

  /** One user at a time: rejects with who holds the pod. */
  async lease(): Promise<void> {
    await this.#ask({ method: 'lease' });
  }

  async release(): Promise<void> {
    if (!this.#closed) await this.#ask({ method: 'release' });
  }

  async run(ops: readonly CableOp[]): Promise<readonly Uint8Array[]> {
    const answers = (await this.#ask({ method: 'run', ops: ops.map(toWire) })) as string[];
    return answers.map(bytesFromBase64);
  }

  async state(): Promise<CableState> {
    return (await this.#ask({ method: 'state' })) as CableState;
  }

  async setFrequency(hz: number): Promise<number> {
    return (await this.#ask({ method: 'frequency', hz })) as number;
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

  async setBootSource(source: 'flash' | 'jtag'): Promise<void> {
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

  /** Sends a file to the pod, which checks size and digest. Resolves to its number there. */
  async stage(name: string, bytes: Uint8Array, sha256: string, onSent: (bytes: number) => void): Promise<number> {
    const { id } = (await this.#ask({ method: 'stage', name, bytes: bytes.length, sha256 })) as { id: number };
    for (let at = 0; at < bytes.length; at += PIECE_BYTES) {
      await this.#ask({ method: 'stage-piece', file: id, data: base64FromBytes(bytes.subarray(at, at + PIECE_BYTES)) });
      onSent(Math.min(bytes.length, at + PIECE_BYTES));
    }
    await this.#ask({ method: 'stage-check', file: id });
    return id;
  }

  async staged(): Promise<readonly StagedFile[]> {
    return (await this.#ask({ method: 'staged' })) as readonly StagedFile[];
  }

  async dropStaged(file: number): Promise<void> {
    await this.#ask({ method: 'stage-drop', file });
  }

  /** The pod carries a staged file out by itself; needs no lease here, the pod holds its own meanwhile. */
  async execute(file: number, what: 'load' | 'svf', device: number | null): Promise<void> {
    await this.#ask({ method: 'execute', file, what, device });
  }

  /** Tells others at this pod what was done to the board. */
  async tell(deed: PodDeed): Promise<void> {
    await this.#ask({ method: 'tell', deed: { ...deed, leaves: deed.leaves ?? false } });
  }

  /** `onDeed` hears what others did, from the last of it that the pod still knows on. */
  async watchPanel(listener: (panel: LivePanel) => void, onDeed: (deed: ToldDeed) => void = () => {}): Promise<void> {
    this.#panel = listener;
    this.#deed = onDeed;
    await this.#ask({ method: 'watch-panel' });
  }

  #ask(request: Unnumbered): Promise<unknown> {
    if (this.#closed) return Promise.reject(new ProblemError(podLost()));
    const id = this.#next++;
    return new Promise((resolve, reject) => {
      const timer = setTimeout(() => {
        this.#waiting.delete(id);
        reject(
          new ProblemError(
            problem(
              'pod-silent',
              `The pod has not answered for ${SILENCE_MILLISECONDS / 1000} s.`,
              'Check the network to the pod.',
              'Start the pod again.',
            ),
          ),
        );
      }, SILENCE_MILLISECONDS);
      this.#waiting.set(id, { resolve, reject, timer });
      this.#socket.send(JSON.stringify({ id, ...request }));
    });
  }

  #take(reply: PodReply): void {
    if ('event' in reply) {
      if (reply.event === 'panel') this.#panel(reply.panel as LivePanel);
      else {
        const read = toldDeed.safeParse(reply.deed);
        if (read.success) this.#deed(read.data);
      }
      return;
    }
    const waiting = this.#waiting.get(reply.id);
    if (!waiting) return;
    this.#waiting.delete(reply.id);
    clearTimeout(waiting.timer);
    if (reply.ok) waiting.resolve(reply.result);
    else waiting.reject(new ProblemError(reply.problem));
  }

  #close(): void {
    if (this.#closed) return;
    this.#closed = true;
    for (const { reject, timer } of this.#waiting.values()) {
      clearTimeout(timer);
      reject(new ProblemError(podLost()));
    }
    this.#waiting.clear();
    for (const listener of this.#lost) listener();
  }
}

const podLost = (): Problem =>
  problem(
    'pod-lost',
    'The connection to the pod was lost.',
    'Start the pod again; it is found by itself.',
    'Scan the chain before anything else: the board may be in any state.',
  );
