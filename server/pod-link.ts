import { hostname } from 'node:os';
import { WebSocket } from 'ws';
import { type LivePanel, PodClient, type ToldDeed, watchBeat } from '../core/pod/index.ts';
import { type Problem, ProblemError, problem } from '../core/result.ts';

export interface PodStatus {
  readonly address: string | null;
  readonly state: 'none' | 'connecting' | 'connected' | 'refused' | 'lost';
  readonly name: string | null;
  readonly problem: Problem | null;
}

const RETRY_MILLISECONDS = 1000;
/** Name under which this server uses pods. */
export const OWN_NAME = `the workbench on ${hostname()}`;

/** Keeps one pod connected, comes back by itself after a loss, hands out the cable to one user at a time. */
export class PodLink {
  readonly #changed: () => void;
  readonly #onPanel: (panel: LivePanel | null) => void;
  readonly #onDeed: (deed: ToldDeed) => void;
  /** Done with the cable in hand before every piece of work. */
  readonly #prepare: (client: PodClient) => Promise<void>;
  #address: string | null = null;
  #token = '';
  #client: PodClient | null = null;
  #status: PodStatus = { address: null, state: 'none', name: null, problem: null };
  #busy: Promise<unknown> = Promise.resolve();
  #timer: ReturnType<typeof setTimeout> | null = null;
  #attempt = 0;
  tckHz = 1;
  /** How often the cable has been handed out: whoever finds it unchanged was the last to use it. */
  turns = 0;
  panel: LivePanel | null = null;

  constructor(
    changed: () => void,
    onPanel: (panel: LivePanel | null) => void,
    onDeed: (deed: ToldDeed) => void = () => {},
    prepare: (client: PodClient) => Promise<void> = async () => {},
  ) {
    this.#prepare = prepare;
    this.#changed = changed;
    this.#onPanel = onPanel;
    this.#onDeed = onDeed;
  }

  get status(): PodStatus {
    return this.#status;
  }

  /** Takes another address or token; resolves when the first attempt has ended. */
  async use(address: string, token: string): Promise<void> {
    this.#attempt++;
    if (this.#timer) clearTimeout(this.#timer);
    this.#client?.close();
    this.#client = null;
    this.panel = null;
    this.#onPanel(null);
    this.#status = { address: this.#address, state: 'none', name: null, problem: null };
    this.#address = address;
    this.#token = token;
    await this.#connect(this.#attempt);
  }

  /** The hands: needs no lease. */
  hands(): PodClient {
    if (!this.#client) throw new ProblemError(this.#status.problem ?? noPod(this.#address));
    return this.#client;
  }

  /** Runs work that has the cable to itself, here and at the pod. */
  cable<T>(work: (client: PodClient) => Promise<T>): Promise<T> {
    const turn = this.#busy.then(async () => {
      const client = this.hands();
      await client.lease();
      this.turns++;
      try {
        await this.#prepare(client);
        return await work(client);
      } finally {
        await client.release();
      }
    });
    this.#busy = turn.catch(() => {});
    return turn;
  }

  async #connect(attempt: number): Promise<void> {
    const address = this.#address;
    if (address === null || attempt !== this.#attempt) return;
    if (this.#status.state !== 'lost') this.#set({ address, state: 'connecting', name: null, problem: null });
    try {
      const client = new PodClient(await openSocket(address));
      const { pod, tckHz } = await client.hello(this.#token, OWN_NAME);
      if (attempt !== this.#attempt) return client.close();
      this.#client = client;
      this.tckHz = tckHz;
      client.onLost(() => this.#lost(attempt));
      this.#set({ address, state: 'connected', name: pod, problem: null });
      await client.watchPanel(
        (panel) => {
          if (attempt !== this.#attempt) return;
          this.panel = panel;
          this.#onPanel(panel);
        },
        (deed) => {
          if (attempt === this.#attempt && deed.by !== OWN_NAME) this.#onDeed(deed);
        },
      );
    } catch (error) {
      if (attempt !== this.#attempt) return;
      const found = error instanceof ProblemError ? error.problem : noPod(address);
      const refused = found.code === 'pod-token' || found.code === 'pod-protocol';
      this.#set({ address, state: refused ? 'refused' : 'lost', name: null, problem: found });
      if (!refused) this.#retry(attempt);
    }
  }

  #lost(attempt: number): void {
    if (attempt !== this.#attempt) return;
    this.#client = null;
    this.panel = null;
    this.#onPanel(null);
    this.#set({ address: this.#address, state: 'lost', name: null, problem: noPod(this.#address) });
    this.#retry(attempt);
  }

  #retry(attempt: number): void {
    if (this.#timer) clearTimeout(this.#timer);
    this.#timer = setTimeout(() => void this.#connect(attempt), RETRY_MILLISECONDS);
  }

  #set(status: PodStatus): void {
    const same = JSON.stringify(status) === JSON.stringify(this.#status);
    this.#status = status;
    if (!same) this.#changed();
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
