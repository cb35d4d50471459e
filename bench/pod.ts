// The pod as a process: one simulated bench behind a WebSocket.
import { randomBytes } from 'node:crypto';
import { readFileSync } from 'node:fs';
import { parseArgs } from 'node:util';
import { readBenchFile } from './bench-file.ts';
import { Bench } from './bench.ts';
import { readKept, writeKept } from './kept-state.ts';
import { servePod } from './pod-server.ts';

const { values } = parseArgs({
  options: {
    bench: { type: 'string', default: 'demo/benches/lockhouse.bench.json' },
    host: { type: 'string', default: '127.0.0.1' },
    port: { type: 'string', default: '4711' },
    token: { type: 'string' },
    state: { type: 'string' },
  },
});

const file = readBenchFile(readFileSync(values.bench, 'utf8'), values.bench);
if (!file.ok) {
  console.error(file.error.message);
  process.exit(1);
}
const token = values.token ?? process.env.NIMBLE_POD_TOKEN ?? randomBytes(16).toString('hex');
const folder = values.state;
const bench = new Bench(file.value, folder === undefined ? new Map() : readKept(folder));
let saved = bench.flashChanges;
const keep = () => {
  if (folder === undefined || bench.flashChanges === saved) return;
  writeKept(folder, bench.flashContents);
  saved = bench.flashChanges;
};
const { port, close } = await servePod(bench, { host: values.host, port: Number(values.port), token, keep });
console.log(
  `pod "${file.value.name}" at ws://${values.host}:${port}${values.token || process.env.NIMBLE_POD_TOKEN ? '' : ` token ${token}`}`,
);

const stop = async () => {
  keep();
  await close();
  process.exit(0);
};
process.on('SIGINT', () => void stop());
process.on('SIGTERM', () => void stop());
