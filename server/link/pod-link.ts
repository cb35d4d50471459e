import PQueue from 'p-queue';
import { hostname } from 'node:os';
import type { Family } from '../../core/families/index.ts';
import { WebSocket } from 'ws';
import { ChainSession } from '../../core/board/index.ts';
import type { ChainMemory } from '../../core/jtag/index.ts';
import {
  type HeardOnLine,
  type PodCapabilities,
  PodClient,
  type PodStatusEvent,
  type ToldDeed,
  watchBeat,
} from '../../core/pod/index.ts';
import type { Scan } from '../../core/board/index.ts';
import { type Problem, ProblemError, problem } from '../../core/result.ts';

export interface PodStatus {
  readonly address: string | null;
  readonly state: 'none' | 'connecting' | 'connected' | 'refused' | 'lost';
  readonly name: string | null;
  readonly problem: Problem | null;
  /** What this pod can do beside clocking the chain; null without one. */
  readonly capabilities: PodCapabilities | null;
}

const NO_POD: PodStatus = { address: null, state: 'none', name: null, problem: null, capabilities: null };
const RETRY_MILLISECONDS = 1000;
/** Name under which this server uses pods. */
export const OWN_NAME = `the workbench on ${hostname()}`;

/** Who is told what a pod tells, and what the link has to know of the board. */
interface PodListeners {
  /** The connection stands otherwise than before. */
  changed(): void;
  /** What the pod shows of itself and the board; null once it is gone. */
  onStatus(status: PodStatusEvent | null): void;
  onDeed(deed: ToldDeed): void;
  /** What comes on the board's serial line; from which byte on it is wanted, and from which it comes. */
  onLine(heard: HeardOnLine): void;
  lineFrom(): number;
  onLineFrom(next: number): void;
  /** The chain was scanned, whoever wanted it. */
  onScan(scan: Scan): void;
  /** What is said of the chain behind this pod. */
  memory(): Promise<ChainMemory>;
  /** Families whose parts are known: those of the product, and what the open project says of its own part. */
  families(): Promise<readonly Family[]>;
}

/** Keeps one pod connected, comes back by itself after a loss, hands out the board to one user at a time. */
export class PodLink {
  readonly #on: PodListeners;
  #address: string | null = null;
  #token = '';
  /** Address and token were right once. */
  #wasAccepted = false;
  #client: PodClient | null = null;
  #session: ChainSession | null = null;
  #status: PodStatus = NO_POD;
  readonly #turns = new PQueue({ concurrency: 1 });
  #timer: ReturnType<typeof setTimeout> | null = null;
  #attempt = 0;
  /** How often the board has been handed out: whoever finds it unchanged was the last to use it. */
  turns = 0;
  /** What the pod last told of itself and the board. */
  shown: PodStatusEvent | null = null;

  constructor(listeners: PodListeners) {
    this.#on = listeners;
  }

  get tckHz(): number {
    return this.#client?.tckHz ?? 1;
  }

  get status(): PodStatus {
    return this.#status;
  }

  /** Takes another address or token; resolves when the first attempt has ended. */
  async use(address: string, token: string): Promise<void> {
    this.#attempt++;
    if (this.#timer) clearTimeout(this.#timer);
    this.#client?.close();
    this.#gone();
    this.#status = { ...NO_POD, address: this.#address };
    this.#address = address;
    this.#token = token;
    this.#wasAccepted = false;
    await this.#connect(this.#attempt);
  }

  /** Makes the connection anew, at the same address. */
  again(): Promise<void> {
    return this.use(this.#address ?? '', this.#token);
  }

  /** The hands: needs no lease. */
  hands(): PodClient {
    if (!this.#client) throw new ProblemError(this.#status.problem ?? noPod(this.#address));
    return this.#client;
  }

  /** Runs work that has the board to itself, here and at the pod. */
  cable<T>(work: (chain: ChainSession) => Promise<T>): Promise<T> {
    return this.#turns.add(async () => {
      const client = this.hands();
      await client.lease();
      this.turns++;
      try {
        return await work(await this.#chain(client));
      } finally {
        // What was done is done, whatever becomes of the lease.
        await client.release().catch(() => {});
      }
    });
  }

  /** Runs work for which the pod takes the board to itself: nothing of ours holds it meanwhile. */
  handsOff<T>(work: (client: PodClient) => Promise<T>): Promise<T> {
    return this.#turns.add(() => work(this.hands()));
  }

  /** One session for as long as the connection holds: the chain is scanned once and then only looked at again. */
  async #chain(client: PodClient): Promise<ChainSession> {
    const [memory, families] = [await this.#on.memory(), await this.#on.families()];
    if (this.#session?.cable !== client) {
      this.#session = ChainSession.on({ cable: client, hands: client.hands, memory, families });
      this.#session.onScan((scan) => this.#on.onScan(scan));
    }
    this.#session.know(families);
    this.#session.remember(memory);
    return this.#session;
  }

  async #connect(attempt: number): Promise<void> {
    const address = this.#address;
    if (address === null || attempt !== this.#attempt) return;
    if (this.#status.state !== 'lost') this.#set({ ...NO_POD, address, state: 'connecting' });
    try {
      const client = new PodClient(await openSocket(address));
      const { pod, capabilities } = await client.hello(this.#token, OWN_NAME);
      if (attempt !== this.#attempt) return client.close();
      this.#client = client;
      this.#wasAccepted = true;
      client.onLost((why) => this.#lost(attempt, why));
      this.#set({ address, state: 'connected', name: pod, problem: null, capabilities });
      if (capabilities.line) {
        const hear = (heard: HeardOnLine) => attempt === this.#attempt && this.#on.onLine(heard);
        this.#on.onLineFrom((await client.listenToLine(this.#on.lineFrom(), hear)).next);
      }
      await client.watch(
        (status) => {
          if (attempt !== this.#attempt) return;
          this.shown = status;
          this.#on.onStatus(status);
        },
        (deed) => {
          if (attempt === this.#attempt && deed.by !== OWN_NAME) this.#on.onDeed(deed);
        },
      );
    } catch (error) {
      if (attempt !== this.#attempt) return;
      const found = error instanceof ProblemError ? error.problem : noPod(address);
      const refused = found.code === 'pod-token' || found.code === 'pod-protocol';
      this.#set({ ...NO_POD, address, state: refused ? 'refused' : 'lost', problem: found });
      // A token that was right before may have been garbled on its way.
      if (!refused || this.#wasAccepted) this.#retry(attempt);
    }
  }

  #gone(): void {
    this.#client = null;
    this.#session = null;
    this.shown = null;
    this.#on.onStatus(null);
  }

  #lost(attempt: number, why: Problem): void {
    if (attempt !== this.#attempt) return;
    this.#gone();
    const found = why.code === 'pod-lost' ? noPod(this.#address) : why;
    this.#set({ ...NO_POD, address: this.#address, state: 'lost', problem: found });
    this.#retry(attempt);
  }

  #retry(attempt: number): void {
    if (this.#timer) clearTimeout(this.#timer);
    this.#timer = setTimeout(() => void this.#connect(attempt), RETRY_MILLISECONDS);
  }

  #set(status: PodStatus): void {
    const same = JSON.stringify(status) === JSON.stringify(this.#status);
    this.#status = status;
    if (!same) this.#on.changed();
  }
}

function openSocket(address: string): Promise<ConstructorParameters<typeof PodClient>[0]> {
  return new Promise((resolve, reject) => {
    const socket = new WebSocket(address, { handshakeTimeout: 4000 });
    socket.once('open', () => {
      watchBeat(socket);
      resolve({
        send: (text) => socket.send(text),
        close: () => socket.close(),
        onMessage: (listener) => socket.on('message', (data) => listener(String(data))),
        onClose: (listener) => socket.on('close', listener),
      });
    });
    socket.on('error', () => reject(new ProblemError(noPod(address))));
  });
}

const noPod = (address: string | null): Problem =>
  problem(
    'no-pod',
    address === null ? 'No pod has been named.' : `No pod answers at ${address}.`,
    'Start the pod; it is found by itself within a second.',
    'Check address and port under Bench.',
  );
