import { randomUUID, timingSafeEqual } from 'node:crypto';
import { createServer } from 'node:http';
import { type WebSocket, WebSocketServer } from 'ws';
import { PodServer, type PodTarget, type StageShelf, watchBeat } from '../core/pod/index.ts';
import { carryOutStaged } from './carry-out.ts';

interface ServeOptions {
  readonly host: string;
  /** 0 takes any free port. */
  readonly port: number;
  readonly token: string;
  /** Where staged files lie; in memory where nothing is said. */
  readonly shelf?: StageShelf;
}

const LONGEST_MESSAGE = 8 << 20;

/** Serves one target over a WebSocket. Resolves once it listens. docs/pod-protocol.md */
export async function servePod(
  target: PodTarget,
  { host, port, token, shelf }: ServeOptions,
): Promise<{ readonly port: number; close(): Promise<void> }> {
  const pod = new PodServer(target, {
    isToken: (text) => sameText(text, token),
    startedAs: randomUUID(),
    carryOut: carryOutStaged,
    ...(shelf ? { shelf } : {}),
  });
  const http = createServer((_, response) => response.writeHead(426).end('This is a pod; it speaks WebSocket.'));
  // Pages of other origins must not reach the pod through a browser: a browser always sends Origin, our clients never
  // do.
  const server = new WebSocketServer({
    server: http,
    maxPayload: LONGEST_MESSAGE,
    verifyClient: ({ req }: { req: { headers: { origin?: string } } }) => req.headers.origin === undefined && pod.hears,
  });
  server.on('connection', (socket) => {
    socket.on('error', () => socket.terminate());
    // A client whose network went away says nothing; its lease must not outlive it.
    watchBeat(socket);
    pod.connect(asServerSocket(socket));
  });
  const listens = await new Promise<number>((resolve, reject) => {
    http.once('error', reject);
    http.listen(port, host, () => {
      const address = http.address();
      resolve(typeof address === 'object' && address ? address.port : port);
    });
  });
  return {
    port: listens,
    close: async () => {
      pod.close();
      server.close();
      await new Promise<void>((resolve) => http.close(() => resolve()));
    },
  };
}

const asServerSocket = (socket: WebSocket): Parameters<PodServer['connect']>[0] => ({
  send: (text) => socket.send(text),
  close: (code) => socket.close(code),
  terminate: () => socket.terminate(),
  pending: () => socket.bufferedAmount,
  onMessage: (listener) => socket.on('message', (data) => listener(String(data))),
  onClose: (listener) => socket.on('close', listener),
});

/** Compares in a time that does not tell how much of it was right. */
function sameText(a: string, b: string): boolean {
  const [left, right] = [Buffer.from(a), Buffer.from(b)];
  return left.length === right.length && timingSafeEqual(left, right);
}
