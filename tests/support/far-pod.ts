// A pod behind a wire that is slow, noisy or dead: what a test says of the connection, and a measurement.
import { WebSocket } from 'ws';
import { benchTarget } from '../../bench/index.ts';
import { PodClient } from '../../core/pod/index.ts';
import { servePod } from '../../pod/index.ts';
import { chanceFrom } from '../fuzz/index.ts';
import { Wire } from '../torture/index.ts';
import { lockhouse } from './lockhouse.ts';
import { freePort } from './processes.ts';

const TOKEN = 'far';

export async function farPod() {
  const target = benchTarget(lockhouse().bench);
  const pod = await servePod(target, { host: '127.0.0.1', port: 0, token: TOKEN });
  const port = await freePort();
  const wire = await Wire.to(pod.port, port, chanceFrom(1));
  const client = async (): Promise<PodClient> => {
    const socket = await new Promise<WebSocket>((resolve, reject) => {
      const made: WebSocket = new WebSocket(`ws://127.0.0.1:${port}`);
      made.once('open', () => resolve(made)).once('error', reject);
    });
    socket.on('error', () => {});
    const made = new PodClient({
      send: (text) => socket.send(text),
      close: () => socket.close(),
      onMessage: (listener) => socket.on('message', (data) => listener(String(data))),
      onClose: (listener) => socket.on('close', listener),
    });
    await made.hello(TOKEN, 'far away');
    return made;
  };
  const close = async () => {
    wire.close();
    await pod.close();
    target.stop();
  };
  return { wire, client, close, port, token: TOKEN };
}

/** Seconds of a whole load of the demo's design with so many milliseconds each way. */
export async function farLoadSeconds(
  milliseconds: number,
  load: (client: PodClient) => Promise<unknown>,
): Promise<number> {
  const { wire, client, close } = await farPod();
  try {
    wire.weather = { kind: 'far', milliseconds };
    const made = await client();
    await made.lease();
    const start = performance.now();
    await load(made);
    const seconds = (performance.now() - start) / 1000;
    made.close();
    return seconds;
  } finally {
    await close();
  }
}
