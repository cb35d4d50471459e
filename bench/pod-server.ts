import { randomUUID } from 'node:crypto';
import { createServer } from 'node:http';
import { type WebSocket, WebSocketServer } from 'ws';
import { base64FromBytes, bytesFromBase64 } from '../core/bits/index.ts';
import type { CableOp } from '../core/jtag/index.ts';
import {
  fromWire,
  POD_PROTOCOL,
  type PodReply,
  podRequest,
  type PodRequest,
  type ToldDeed,
  watchBeat,
} from '../core/pod/index.ts';
import { type Problem, problem } from '../core/result.ts';
import type { Bench } from './bench.ts';
import { isFaultName } from './faults.ts';
import { RealTime } from './real-time.ts';
import { Staging } from './staging.ts';

interface PodOptions {
  readonly host: string;
  /** 0 takes any free port. */
  readonly port: number;
  readonly token: string;
  /** Called when flash contents may have changed. */
  readonly keep: () => void;
}

const PANEL_MILLISECONDS = 40;
/** After a lost connection nobody gets in for this long. */
const DEAF_MILLISECONDS = 4000;
const BUSY_MILLISECONDS = 40;
const WAIT_SLICE_MICROSECONDS = 20_000;
const LONGEST_MESSAGE = 8 << 20;
/** Deeds that are remembered for those who come later. */
const MOST_DEEDS = 50;

interface Session {
  readonly socket: WebSocket;
  name: string | null;
  watching: boolean;
}

/** Serves one bench over a WebSocket. Resolves once it listens. docs/pod-protocol.md */
export async function servePod(
  bench: Bench,
  options: PodOptions,
): Promise<{ port: number; close: () => Promise<void> }> {
  let deafUntil = 0;
  let asked: string | null = null;
  const staging = new Staging(bench);
  const http = createServer((_, response) => response.writeHead(426).end('This is a pod; it speaks WebSocket.'));
  // Pages of other origins must not reach the pod through a browser: a browser always sends Origin, our clients never
  // do.
  const server = new WebSocketServer({
    server: http,
    maxPayload: LONGEST_MESSAGE,
    verifyClient: ({ req }: { req: { headers: { origin?: string } } }) =>
      req.headers.origin === undefined && Date.now() >= deafUntil,
  });
  const clock = new RealTime(bench);
  const sessions = new Set<Session>();
  let holder: Session | null = null;
  /** Tells one start of the pod from another, so that nobody hears of a deed twice. */
  const startedAs = randomUUID();
  const deeds: { readonly deed: ToldDeed; readonly session: Session }[] = [];
  let deedCount = 0;
  const panel = (): PodReply => ({
    event: 'panel',
    panel: { ...bench.panel(), speed: clock.speed, lease: holder?.name ?? null, asked },
  });
  const timer = setInterval(() => {
    const watchers = [...sessions].filter((session) => session.watching);
    if (watchers.length === 0) return;
    const text = JSON.stringify(panel());
    for (const { socket } of watchers) socket.send(text);
  }, PANEL_MILLISECONDS);
  server.on('connection', (socket) => {
    const session: Session = { socket, name: null, watching: false };
    sessions.add(session);
    let last: Promise<void> = Promise.resolve();
    socket.on('message', (data) => {
      last = last.then(() => serve(session, String(data)));
    });
    socket.on('close', () => {
      sessions.delete(session);
      if (holder === session) free();
    });
    socket.on('error', () => socket.terminate());
    // A client whose network went away says nothing; its lease must not outlive it.
    watchBeat(socket);
  });
  /** The connection breaks as a pulled network cable breaks it: without a word. */
  const loseAll = () => {
    deafUntil = Date.now() + DEAF_MILLISECONDS;
    for (const { socket } of sessions) socket.terminate();
  };
  const free = () => {
    holder = null;
    options.keep();
  };
  const serve = async (session: Session, text: string): Promise<void> => {
    const reply = (message: PodReply) => session.socket.send(JSON.stringify(message));
    let data: unknown;
    try {
      data = JSON.parse(text);
    } catch {
      return session.socket.close(1007);
    }
    const read = podRequest.safeParse(data);
    if (!read.success) {
      const id = (data as { id?: unknown } | null)?.id;
      return reply({
        id: typeof id === 'number' ? id : 0,
        ok: false,
        problem: problem(
          'pod-request',
          `The pod does not understand this request: ${read.error.issues[0]?.message ?? ''}.`,
          'Use the same release for pod and client.',
        ),
      });
    }
    const answer = await handle(session, read.data);
    if ('refused' in answer) reply({ id: read.data.id, ok: false, problem: answer.refused });
    else reply({ id: read.data.id, ok: true, result: answer.result });
    if (read.data.method === 'hello' && 'refused' in answer) session.socket.close(4001);
  };
  const handle = async (session: Session, request: PodRequest): Promise<{ result: unknown } | { refused: Problem }> => {
    if (request.method === 'hello') {
      if (request.protocol !== POD_PROTOCOL)
        return {
          refused: problem(
            'pod-protocol',
            `The pod speaks protocol ${POD_PROTOCOL}, the client ${request.protocol}.`,
            'Use the same release for both.',
          ),
        };
      if (!sameText(request.token, options.token))
        return {
          refused: problem(
            'pod-token',
            'The pod refuses this token.',
            'Copy the token from where the pod was started.',
          ),
        };
      session.name = request.client;
      return { result: { pod: bench.file.name, tckHz: bench.cableState.tckHz } };
    }
    if (session.name === null)
      return { refused: problem('pod-token', 'The pod wants a token first.', 'Send hello with the token.') };
    switch (request.method) {
      case 'ask':
        asked = session.name;
        return { result: null };
      case 'tell': {
        const deed: ToldDeed = {
          ...request.deed,
          by: session.name.slice(0, 200),
          time: new Date().toISOString(),
          number: ++deedCount,
          pod: startedAs,
        };
        deeds.push({ deed, session });
        if (deeds.length > MOST_DEEDS) deeds.shift();
        for (const other of sessions)
          if (other !== session && other.watching)
            other.socket.send(JSON.stringify({ event: 'deed', deed } satisfies PodReply));
        return { result: null };
      }
      case 'stage': {
        const opened = staging.open(request.name, request.bytes, request.sha256);
        return 'refused' in opened ? opened : { result: opened };
      }
      case 'stage-piece':
        return answerOf(staging.take(request.file, bytesFromBase64(request.data)));
      case 'stage-check':
        return answerOf(staging.check(request.file));
      case 'stage-drop':
        return staging.drop(request.file)
          ? { result: null }
          : {
              refused: problem(
                'stage-file',
                'The pod holds no such file, or it is running.',
                'Look at the list again.',
              ),
            };
      case 'staged':
        return { result: staging.files };
      case 'execute': {
        if (holder)
          return {
            refused: problem(
              'pod-busy',
              `The pod is in use by ${holder.name}.`,
              'Wait until that is done, or ask for it.',
            ),
          };
        const own: Session = { socket: session.socket, name: 'a staged file of its own', watching: false };
        const found = staging.execute(request.file, request.what, request.device, () => holder === own && free());
        if (!found) holder = own;
        return answerOf(found);
      }
      case 'lease':
        if (holder && holder !== session)
          return {
            refused: problem(
              'pod-busy',
              `The pod is in use by ${holder.name}.`,
              'Wait until that is done, or ask for it.',
            ),
          };
        if (asked === session.name) asked = null;
        holder = session;
        return { result: null };
      case 'release':
        if (holder === session) free();
        return { result: null };
      case 'watch-panel':
        session.watching = true;
        session.socket.send(JSON.stringify(panel()));
        for (const { deed, session: by } of deeds)
          if (by !== session) session.socket.send(JSON.stringify({ event: 'deed', deed } satisfies PodReply));
        return { result: null };
      case 'operate':
        return bench.operate(request.name, request.on)
          ? { result: null }
          : { refused: problem('no-control', `The board has no control "${request.name}".`, 'Scan the panel again.') };
      case 'boot-source':
        bench.setBootSource(request.source);
        return { result: null };
      case 'reconfigure':
        bench.reconfigure();
        return { result: null };
      case 'state':
        return { result: bench.cableState };
      case 'fault':
        if (!isFaultName(request.name))
          return {
            refused: problem('no-fault', `This bench has no fault "${request.name}".`, 'Choose one from the list.'),
          };
        if (request.name === 'pod-lost') loseAll();
        else bench.setFault({ name: request.name }, request.on);
        return { result: null };
      default:
        if (holder !== session)
          return {
            refused: problem(
              'pod-lease',
              'Only the holder of the lease may use the cable.',
              'Ask for the lease first.',
            ),
          };
    }
    if (request.method === 'power') {
      bench.setPower(request.on);
      return { result: null };
    }
    if (request.method === 'frequency') return { result: bench.setFrequency(request.hz) };
    const ops = request.ops.map(fromWire);
    if (ops.includes(null))
      return {
        refused: problem(
          'pod-request',
          'A scan carries fewer bits than it counts.',
          'Use the same release for pod and client.',
        ),
      };
    const answers = await carryOut(bench, ops as CableOp[]);
    await clock.catchUp();
    return { result: answers.map(base64FromBytes) };
  };
  const port = await new Promise<number>((resolve, reject) => {
    http.once('error', reject);
    http.listen(options.port, options.host, () => {
      const address = http.address();
      resolve(typeof address === 'object' && address ? address.port : options.port);
    });
  });
  clock.start();
  return {
    port,
    close: async () => {
      clearInterval(timer);
      clock.stop();
      for (const { socket } of sessions) socket.terminate();
      server.close();
      await new Promise<void>((resolve) => http.close(() => resolve()));
    },
  };
}

const answerOf = (found: Problem | null): { result: unknown } | { refused: Problem } =>
  found ? { refused: found } : { result: null };

/** A batch may take the simulation long; others must be heard meanwhile. */
async function carryOut(bench: Bench, ops: readonly CableOp[]): Promise<Uint8Array[]> {
  const answers: Uint8Array[] = [];
  let since = performance.now();
  const breathe = async () => {
    if (performance.now() - since < BUSY_MILLISECONDS) return;
    await new Promise((resolve) => setImmediate(resolve));
    since = performance.now();
  };
  for (const op of ops) {
    if (op.kind === 'wait')
      for (let left = op.microseconds; left > 0; left -= WAIT_SLICE_MICROSECONDS) {
        answers.push(...bench.run([{ kind: 'wait', microseconds: Math.min(left, WAIT_SLICE_MICROSECONDS) }]));
        await breathe();
      }
    else answers.push(...bench.run([op]));
    await breathe();
  }
  return answers;
}

/** Compares in a time that does not tell how much of it was right. */
function sameText(a: string, b: string): boolean {
  let differs = a.length ^ b.length;
  for (let i = 0; i < a.length; i++) differs |= a.charCodeAt(i) ^ b.charCodeAt(i % Math.max(1, b.length));
  return differs === 0;
}
