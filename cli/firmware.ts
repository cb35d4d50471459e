// The firmware of pod/firmware with the pins of a simulated bench: a microcontroller to try `npm run pod -- --wire` on.
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { parseArgs } from 'node:util';
import { Bench, benchTarget, Pins, readBenchFile, readKept, writeKept } from '../bench/index.ts';
import { compiledFirmware, startFirmware } from '../pod/index.ts';

const { values } = parseArgs({
  options: {
    bench: { type: 'string', default: 'demo/benches/lockhouse.bench.json' },
    state: { type: 'string' },
  },
});

function refuse(message: string): never {
  console.error(message);
  process.exit(1);
}

const root = process.env.NIMBLE_ROOT ?? process.cwd();
const file = readBenchFile(readFileSync(values.bench, 'utf8'), values.bench);
if (!file.ok) refuse(file.error.message);
const program = compiledFirmware(join(root, 'pod', 'firmware'), join(root, 'dist', 'firmware'));
if (program === null) refuse('There is no C compiler (`cc`) on this machine. Install one, or use a pod with --bench.');

const folder = values.state;
const bench = new Bench(file.value, folder === undefined ? new Map() : readKept(folder));
const target = benchTarget(bench);
const firmware = await startFirmware(program, new Pins(target));
console.log(firmware.path);

let saved = bench.flashChanges;
const keep = () => {
  if (folder === undefined || bench.flashChanges === saved) return;
  saved = bench.flashChanges;
  writeKept(folder, bench.flashContents);
};
const KEEP_MILLISECONDS = 2000;
setInterval(keep, KEEP_MILLISECONDS).unref();
const stop = () => {
  keep();
  target.stop();
  firmware.stop();
  process.exit(0);
};
process.on('SIGINT', stop);
process.on('SIGTERM', stop);
// The hand at the supply switch of a board whose pod has none.
process.on('SIGUSR2', () => bench.setPower(!bench.powered));
firmware.process.once('exit', stop);
