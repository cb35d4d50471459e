import type { Command } from 'commander';
import { FAMILIES } from '../core/families/index.ts';
import { WebSocket } from 'ws';
import { Bench, BenchCable, benchHands, benchTarget, readBenchFile, readKept, writeKept } from '../bench/index.ts';
import { ChainSession } from '../core/board/index.ts';
import { type LineAccess, lineAt, PodClient, type PodDeed } from '../core/pod/index.ts';
import type { Watch } from '../core/progress.ts';
import { ProblemError } from '../core/result.ts';
import { problem } from './problems.ts';
import { CallError } from './output.ts';
import { terminalWatch } from './watch.ts';
import { readText } from './files.ts';

export interface ConnectionOptions {
  readonly bench?: string;
  readonly pod?: string;
  readonly token?: string;
  readonly state?: string;
}

const NOTHING_SAID = { answers: [], described: [] };
const LEASE_MILLISECONDS = 3000;
const LEASE_AGAIN_MILLISECONDS = 100;

/** A board for one command, and the hands on it. */
export interface Connection {
  readonly chain: ChainSession;
  readonly tckHz: number;
  operate(name: string, on: boolean): Promise<void>;
  /** Shows progress on a terminal; Ctrl-C cancels. */
  readonly watch: Watch;
  /** Tells others at the same pod what was done to the board; nothing where there is nobody to tell. */
  tell(deed: PodDeed): Promise<void>;
  close(): Promise<void>;
}

/** The serial line of a board for one command: it needs no lease, and nobody who uses the cable is in its way. */
export interface LineConnection {
  readonly line: LineAccess;
  /** Loads something with the cable while the line is heard. */
  withChain<T>(work: (chain: ChainSession) => Promise<T>): Promise<T>;
  tell(deed: PodDeed): Promise<void>;
  close(): Promise<void>;
}

export const withConnection = (command: Command): Command =>
  command
    .option('--bench <file>', 'run this bench inside the process')
    .option('--pod <address>', 'use a running pod, as ws://host:port')
    .option('--token <text>', 'token of the pod; NIMBLE_POD_TOKEN otherwise')
    .option('--state <folder>', 'what the board keeps without power (with --bench)')
    .option('--json', 'one JSON document on standard output');

/** `bench` is what a project names for itself; it counts where the call says neither a bench nor a pod. */
export async function connect(given: ConnectionOptions, bench: string | null = null): Promise<Connection> {
  const options = given.bench === undefined && given.pod === undefined && bench !== null ? { ...given, bench } : given;
  if ((options.bench === undefined) === (options.pod === undefined))
    throw new CallError('Say either --bench FILE or --pod ADDRESS.');
  const opened =
    options.pod === undefined
      ? await openBench(options.bench ?? '', options.state)
      : await connectPod(options.pod, options.token);
  const watch = terminalWatch();
  return {
    ...opened,
    watch,
    close: async () => {
      watch.end();
      await opened.close();
    },
  };
}

type Opened = Omit<Connection, 'watch'>;

async function openBench(path: string, state: string | undefined): Promise<Opened> {
  const file = readBenchFile(readText(path), path);
  if (!file.ok) throw new ProblemError(file.error);
  const bench = new Bench(file.value, state === undefined ? new Map() : readKept(state));
  // A board that has a design in its flash boots before anybody can ask it something.
  bench.advance(1_000_000);
  return {
    chain: ChainSession.on({
      cable: new BenchCable(bench),
      hands: benchHands(bench),
      memory: NOTHING_SAID,
      families: FAMILIES,
    }),
    tckHz: file.value.tckHz,
    operate: async (name, on) => {
      if (!bench.operate(name, on)) throw new ProblemError(problem('no-control', { name }));
    },
    tell: async () => {},
    close: async () => {
      if (state !== undefined) writeKept(state, bench.flashContents);
    },
  };
}

async function podClient(address: string): Promise<PodClient> {
  const socket = await new Promise<WebSocket>((resolve, reject) => {
    const opening = new WebSocket(address);
    opening.once('open', () => resolve(opening));
    opening.once('error', (error) =>
      reject(new ProblemError(problem('no-pod', { address, message: error.message || 'connection refused' }))),
    );
  });
  return new PodClient({
    send: (text) => socket.send(text),
    close: () => socket.close(),
    onMessage: (listener) => socket.on('message', (data) => listener(String(data))),
    onClose: (listener) => socket.on('close', listener),
  });
}

/** A pod that lets this command in, without its cable. */
export async function enteredPod(address: string, token: string | undefined): Promise<PodClient> {
  const client = await podClient(address);
  try {
    await client.hello(token ?? process.env.NIMBLE_POD_TOKEN ?? '', 'nimble command');
    return client;
  } catch (error) {
    client.close();
    throw error;
  }
}

async function connectPod(address: string, token: string | undefined): Promise<Opened> {
  const client = await podClient(address);
  const { tckHz } = await entered(client, token ?? process.env.NIMBLE_POD_TOKEN ?? '');
  return {
    chain: sessionOf(client),
    tckHz,
    operate: (name, on) => client.operate(name, on),
    // A pod of an older release does not understand it, which does not make what was done undone.
    tell: (deed) => client.tell(deed).catch(() => {}),
    close: async () => {
      try {
        await client.release();
      } finally {
        client.close();
      }
    },
  };
}

const sessionOf = (client: PodClient): ChainSession =>
  ChainSession.on({ cable: client, hands: client.hands, memory: NOTHING_SAID, families: FAMILIES });

/** The serial line at a running pod, or of a bench that runs in this process at the pace of the clock on the wall. */
export async function connectLine(options: ConnectionOptions): Promise<LineConnection> {
  if ((options.bench === undefined) === (options.pod === undefined))
    throw new CallError('Say either --bench FILE or --pod ADDRESS.');
  return options.pod === undefined
    ? openBenchLine(options.bench ?? '', options.state)
    : openPodLine(options.pod, options.token);
}

async function openBenchLine(path: string, state: string | undefined): Promise<LineConnection> {
  const file = readBenchFile(readText(path), path);
  if (!file.ok) throw new ProblemError(file.error);
  const bench = new Bench(file.value, state === undefined ? new Map() : readKept(state));
  if (!bench.serial) throw new ProblemError(problem('no-line', { where: path }));
  const target = benchTarget(bench);
  const line = lineAt(bench.serial);
  return {
    line,
    withChain: (work) =>
      work(
        ChainSession.on({ cable: target.cable, hands: benchHands(bench), memory: NOTHING_SAID, families: FAMILIES }),
      ),
    tell: async () => {},
    close: async () => {
      line.close();
      target.stop();
      if (state !== undefined) writeKept(state, bench.flashContents);
    },
  };
}

async function openPodLine(address: string, token: string | undefined): Promise<LineConnection> {
  const client = await podClient(address);
  try {
    const { capabilities } = await client.hello(token ?? process.env.NIMBLE_POD_TOKEN ?? '', 'nimble command');
    if (!capabilities.line) throw new ProblemError(problem('no-line', { where: address }));
  } catch (error) {
    client.close();
    throw error;
  }
  return {
    line: client,
    withChain: async (work) => {
      await leased(client);
      try {
        return await work(sessionOf(client));
      } finally {
        await client.release();
      }
    },
    tell: (deed) => client.tell(deed).catch(() => {}),
    close: async () => client.close(),
  };
}

/** Shows the token and takes the lease; whatever goes wrong, the socket is closed, so that the command can end. */
async function entered(client: PodClient, token: string): Promise<{ readonly tckHz: number }> {
  try {
    const { state } = await client.hello(token, 'nimble command');
    await leased(client);
    return state;
  } catch (error) {
    client.close();
    throw error;
  }
}

/**
 * A page that looks at its board now and then has the pod for a moment; that is waited for, longer work of others is
 * not.
 */
async function leased(client: PodClient): Promise<void> {
  for (const until = Date.now() + LEASE_MILLISECONDS; ; ) {
    try {
      return await client.lease();
    } catch (error) {
      if (Date.now() > until || !(error instanceof ProblemError) || error.problem.code !== 'pod-busy') throw error;
    }
    await new Promise((resolve) => setTimeout(resolve, LEASE_AGAIN_MILLISECONDS));
  }
}
