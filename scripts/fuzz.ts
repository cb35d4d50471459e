// Tries all readers with inputs that are nearly right, for as long or as many as is asked.
// npm run fuzz -- [--seconds N | --inputs N] [--seed N] [--reader NAME] [--only INDEX] [--jobs N]
import { fork } from 'node:child_process';
import { mkdirSync, mkdtempSync, readFileSync, writeFileSync } from 'node:fs';
import { availableParallelism, tmpdir } from 'node:os';
import { join } from 'node:path';
import { parseArgs } from 'node:util';
import { type Batch, type Done, type Fell, inputOf, READERS, type Reader, tryOne } from '../tests/fuzz/index.ts';

const { values } = parseArgs({
  options: {
    seconds: { type: 'string' },
    inputs: { type: 'string' },
    seed: { type: 'string', default: '1' },
    reader: { type: 'string' },
    only: { type: 'string' },
    jobs: { type: 'string', default: String(Math.min(8, availableParallelism())) },
  },
});

/** So long a batch may take that is not slow by itself; a child that is over it is killed. */
const BATCH_MILLISECONDS = 60_000;
const BATCH = 200;
const MOST_TOLD = 30;
const HEAP_MEGABYTES = 512;

const seed = Number(values.seed);
const readers = READERS.filter(({ name }) => values.reader === undefined || values.reader === name);
const folder = join('var', 'fuzz');
const stopAt = values.seconds === undefined ? null : Date.now() + Number(values.seconds) * 1000;
const wanted =
  values.inputs === undefined ? (stopAt === null ? 100_000 : Number.POSITIVE_INFINITY) : Number(values.inputs);

const tried = new Map<string, number>();
const faults = new Map<string, Fell>();
let given = 0;

if (readers.length === 0) throw new Error(`There is no reader ${values.reader}.`);
if (values.only === undefined) await tryAll();
else for (const reader of readers) tell(tryOne(reader, seed, Number(values.only)));
report();

async function tryAll(): Promise<void> {
  const marks = mkdtempSync(join(tmpdir(), 'nimble-fuzz-'));
  await Promise.all(Array.from({ length: Number(values.jobs) }, (_, i) => work(join(marks, `job-${i}`))));
}

/** The next batch: readers by their shares, each index once. Null at the end. */
function nextBatch(): Batch | null {
  if (given >= wanted || (stopAt !== null && Date.now() >= stopAt) || faults.size >= MOST_TOLD) return null;
  const total = readers.reduce((sum, { share }) => sum + share, 0);
  const behind = (reader: Reader) => (tried.get(reader.name) ?? 0) / (reader.share / total);
  const reader = readers.reduce((least, one) => (behind(one) < behind(least) ? one : least));
  const from = tried.get(reader.name) ?? 0;
  const to = from + Math.min(BATCH, wanted - given);
  tried.set(reader.name, to);
  given += to - from;
  return { reader: reader.name, seed, from, to };
}

/** One child after another, each until it dies or nothing is left; what killed one is left out by the next. */
async function work(mark: string): Promise<void> {
  let rest: Batch | null = null;
  for (;;) {
    const batch: Batch | null = rest ?? nextBatch();
    if (!batch) return;
    rest = await runChild(mark, batch);
  }
}

/** Runs batches in a child until there are none; gives what a child that died left of its batch. */
function runChild(mark: string, first: Batch): Promise<Batch | null> {
  return new Promise((resolve) => {
    const child = fork('tests/fuzz/child.ts', [mark], {
      execArgv: ['--import', 'tsx', `--max-old-space-size=${HEAP_MEGABYTES}`],
      stdio: ['ignore', 'ignore', 'ignore', 'ipc'],
    });
    let current: Batch | null = null;
    let timer: ReturnType<typeof setTimeout> | null = null;
    const next = (batch: Batch | null) => {
      current = batch;
      if (timer) clearTimeout(timer);
      if (!batch) return child.disconnect();
      timer = setTimeout(() => child.kill('SIGKILL'), BATCH_MILLISECONDS);
      child.send(batch);
    };
    child.on('message', ({ fell }: Done) => {
      for (const one of fell) tell(one);
      next(current === null ? first : nextBatch());
    });
    child.on('exit', () => {
      if (timer) clearTimeout(timer);
      if (!current) return resolve(null);
      const index = Number(readFileSync(mark, 'utf8').trim() || current.from);
      tell({ reader: current.reader, index, why: 'died', told: 'the process ended, or did not come to an end' });
      resolve(index + 1 < current.to ? { ...current, from: index + 1 } : null);
    });
  });
}

/** Each fault once, with its input kept. */
function tell(fell: Fell | null): void {
  if (!fell) return;
  const key = `${fell.reader} ${fell.why} ${fell.why === 'throw' ? fell.told : ''}`;
  if (faults.has(key)) return;
  faults.set(key, fell);
  const reader = READERS.find(({ name }) => name === fell.reader);
  mkdirSync(folder, { recursive: true });
  const kept = join(folder, `${fell.reader}-${seed}-${fell.index}`);
  if (reader) writeFileSync(kept, inputOf(reader, seed, fell.index));
  console.error(
    `${fell.reader} ${fell.why}: ${fell.told}\n  input in ${kept}; again: --reader ${fell.reader} --seed ${seed} --only ${fell.index}`,
  );
}

function report(): void {
  for (const [name, count] of [...tried].sort())
    console.log(`${name.padEnd(14)} ${count.toLocaleString('en').padStart(10)}`);
  console.log(
    `${given.toLocaleString('en')} inputs of ${readers.length} readers, seed ${seed}: ${faults.size === 0 ? 'nothing fell' : `${faults.size} faults`}`,
  );
  process.exitCode = faults.size === 0 ? 0 : 1;
}
