// The pod as a process: one simulated bench behind a WebSocket.
import { randomBytes } from 'node:crypto';
import { readFileSync } from 'node:fs';
import { parseArgs } from 'node:util';
import { Bench, benchTarget, readBenchFile, readKept, writeKept } from '../bench/index.ts';
import { servePod } from '../pod/index.ts';

const { values } = parseArgs({
  options: {
    bench: { type: 'string', default: 'demo/benches/lockhouse.bench.json' },
    host: { type: 'string', default: '127.0.0.1' },
    port: { type: 'string', default: '4711' },
    token: { type: 'string' },
    state: { type: 'string' },
    'cable-only': { type: 'boolean', default: false },
  },
});

const file = readBenchFile(readFileSync(values.bench, 'utf8'), values.bench);
if (!file.ok) {
  console.error(file.error.message);
  process.exit(1);
}
const given = values.token ?? process.env.NIMBLE_POD_TOKEN;
const token = given ?? randomBytes(16).toString('hex');
const folder = values.state;
const bench = new Bench(file.value, folder === undefined ? new Map() : readKept(folder));
let stands = bench;
let saved = bench.flashChanges;
/** Another bench may stand there by now; of one with other chips nothing is kept, so that ours stay as they were. */
const keep = (now: Bench = stands) => {
  const isOther = now !== stands;
  stands = now;
  const isOurs = JSON.stringify(now.file.chain) === JSON.stringify(bench.file.chain);
  if (folder === undefined || !isOurs || (now.flashChanges === saved && !isOther)) return;
  writeKept(folder, now.flashContents);
  saved = now.flashChanges;
};
const whole = benchTarget(bench, keep);
const { name, cable, kept } = whole;
const target = values['cable-only'] ? { name, cable, ...(kept ? { kept } : {}) } : whole;
// Nothing at such a pod can move the board's supply switch, so a signal stands for the hand that does.
if (values['cable-only']) process.on('SIGUSR2', () => stands.setPower(!stands.powered));
const { port, close } = await servePod(target, { host: values.host, port: Number(values.port), token });
console.log(`pod "${name}" at ws://${values.host}:${port}${given === undefined ? ` token ${token}` : ''}`);

const stop = async () => {
  keep();
  await close();
  process.exit(0);
};
process.on('SIGINT', () => void stop());
process.on('SIGTERM', () => void stop());
