import { mkdirSync, readFileSync, existsSync, statSync, writeFileSync, createWriteStream } from 'node:fs';
import { basename, dirname, join, resolve } from 'node:path';
import type { Command } from 'commander';
import { parameterNumbers } from '../core/build/index.ts';
import { allCells } from '../core/families/index.ts';
import { ProblemError, problem } from '../core/result.ts';
import { type Simulated, simulateWatched, untilText } from '../core/sim/events/index.ts';
import { runVectors, traceVcd } from '../core/vectors/index.ts';
import { readText } from './files.ts';
import { CallError, report } from './output.ts';
import { parameterText, several } from './parameters.ts';
import { sourcesOf } from './sim-sources.ts';
import { terminalWatch } from './watch.ts';

interface SimOptions {
  readonly top?: string;
  readonly clock?: string;
  readonly param: Readonly<Record<string, string>>;
  readonly vectors?: string;
  readonly testbench?: string;
  readonly until?: string;
  readonly plusarg: readonly string[];
  readonly I: readonly string[];
  readonly out?: string;
  readonly json?: boolean;
}

export function simCommand(program: Command, failed: () => void): void {
  program
    .command('sim')
    .description('a testbench or a table of vectors, run on the sources without hardware')
    .argument('<files...>', 'source files, or a project folder')
    .option('--testbench <module>', 'runs this module, with time, as its statements say')
    .option('--until <time>', 'ends the run there: a time with its unit, or ticks of the finest precision')
    .option('--plusarg <name=value>', 'what $test$plusargs and $value$plusargs find', several, [])
    .option('-I <folder>', 'looks there for included and data files too', several, [])
    .option('--vectors <file>', 'table of inputs and expected outputs')
    .option('--top <module>', 'with --vectors: the module the table is for')
    .option('--clock <name>', 'with --vectors: the clock input, where there are several')
    .option('--param <name=value>', 'overrides a parameter of the top module', parameterText, {})
    .option('--out <file>', 'writes the waveform as a value change dump')
    .option('--json', 'one JSON document on standard output')
    .action(async (paths: string[], options: SimOptions) => {
      if ((options.vectors === undefined) === (options.testbench === undefined))
        throw new CallError('Say what to run: --testbench MODULE, or --vectors FILE.');
      if (options.testbench === undefined) return vectors(paths, options, failed);
      await testbench(paths, options, failed);
    });
}

function vectors(paths: readonly string[], options: SimOptions, failed: () => void): void {
  const file = options.vectors ?? '';
  const table = { name: basename(file), text: readText(file) };
  const run = runVectors(sourcesOf(paths, options.I), table, {
    ...(options.top === undefined ? {} : { top: options.top }),
    ...(options.clock === undefined ? {} : { clock: options.clock }),
    parameters: parameterNumbers(options.param),
    cells: allCells(),
  });
  if (!run.ok) throw new ProblemError(run.error);
  const { passed, failed: bad, failures, messages } = run.value;
  if (bad > 0) failed();
  if (options.out !== undefined) writeFileSync(options.out, traceVcd(run.value.trace, new Date().toISOString()));
  for (const m of messages) console.error(`${m.file}:${m.line}:${m.column}: ${m.severity}: ${m.message} [${m.code}]`);
  const text = () =>
    [
      ...failures.map((f) => `row ${f.row}: ${f.port} is ${f.actual}, expected ${f.expected}`),
      `${passed} rows passed, ${bad} failed`,
    ].join('\n');
  report(options.json ?? false, { passed, failed: bad, failures }, text);
}

/** How the ends of a run are called in the JSON document. */
const FINISHED: { readonly [K in Simulated['ending']]?: string } = {
  finish: '$finish',
  stop: '$stop',
  fatal: '$fatal',
};
/** These came about by themselves. */
const BY_ITSELF: ReadonlySet<Simulated['ending']> = new Set(['finish', 'idle']);

async function testbench(paths: readonly string[], options: SimOptions, failed: () => void): Promise<void> {
  const { json = false, testbench: top = '', out } = options;
  const folder = statSync(paths[0] ?? '.', { throwIfNoEntry: false })?.isDirectory() ? (paths[0] ?? '.') : '.';
  const printed: string[] = [];
  const dump = out === undefined ? null : createWriteStream(out);
  const watch = terminalWatch();
  const { run, messages } = await simulateWatched(
    sourcesOf(paths, options.I),
    {
      top,
      cells: allCells(),
      parameters: parameterNumbers(options.param),
      plusargs: options.plusarg,
      until: options.until === undefined ? null : untilOf(options.until),
      host: {
        read: (name) => readInside([folder, ...options.I], name),
        print: (text) => {
          if (json) printed.push(text);
          else process.stdout.write(text);
        },
      },
      onReport: ({ severity, message, at, path, moment }) =>
        console.error(`${at.file}:${at.line}: ${severity}: ${message} (${path}, at ${moment})`),
      ...(dump ? { dump: { write: (text) => void dump.write(text) }, dumpAll: true } : {}),
    },
    watch,
  ).finally(() => watch.end());
  if (dump) await new Promise((resolve) => dump.end(resolve));
  for (const m of messages)
    if (m.severity !== 'info')
      console.error(`${m.file}:${m.line}:${m.column}: ${m.severity}: ${m.message} [${m.code}]`);
  if (!run) {
    const errors = messages.filter((m) => m.severity === 'error').length;
    throw new ProblemError(
      problem(
        'not-understood',
        `The sources have ${errors === 1 ? 'an error' : `${errors} errors`}.`,
        'Mend what is said above.',
      ),
    );
  }
  for (const [name, text] of run.files) writeInside(folder, name, text);
  tell(run, printed.join(''), json, failed);
}

function tell(run: Simulated, output: string, json: boolean, failed: () => void): void {
  const isGood = run.errors === 0 && BY_ITSELF.has(run.ending);
  if (!isGood) failed();
  const why = ENDINGS[run.ending];
  const found = why
    ? problem(`simulation-${run.ending}`, `${why} ${run.told}`.trim(), ...(NEXT[run.ending] ?? []))
    : null;
  const document = {
    finished: FINISHED[run.ending] ?? run.ending,
    time: run.time,
    errors: run.errors,
    output: output === '' ? [] : output.replace(/\n$/, '').split('\n'),
    problem: found,
  };
  if (json) report(true, document, () => '', found);
  else if (found) report(false, document, () => '', found);
  else console.error(`Ended at ${run.time}${run.errors > 0 ? ` with ${run.errors} errors` : ''}.`);
}

const ENDINGS: { readonly [K in Simulated['ending']]?: string } = {
  limit: 'The run reached its time limit and did not end by itself.',
  loop: 'The run stands still.',
  oscillation: 'The run stands still.',
  cancelled: 'The run was stopped.',
  fault: 'The run could not go on.',
  fatal: '$fatal ended the run.',
};

const NEXT: { readonly [K in Simulated['ending']]?: readonly string[] } = {
  limit: ['Call $finish in the testbench, or allow more time with --until.'],
  loop: ['Give the loop a delay or an event to wait for.'],
  oscillation: ['Give the circle a delay, or break it with a register.'],
};

function untilOf(text: string): NonNullable<ReturnType<typeof untilText>> {
  const until = untilText(text);
  if (until) return until;
  throw new CallError(`"${text}" is no time: write one such as 10us, or a number of ticks.`);
}

const LARGEST_READ = 64 << 20;

/** A file of the project's folder; names that would leave it never come here. */
function readInside(folders: readonly string[], name: string): string | null {
  const path = folders.map((folder) => join(folder, name)).find((one) => existsSync(one));
  if (path === undefined || !statSync(path).isFile() || statSync(path).size > LARGEST_READ) return null;
  return readFileSync(path, 'latin1');
}

function writeInside(folder: string, name: string, text: string): void {
  const path = resolve(folder, name);
  mkdirSync(dirname(path), { recursive: true });
  writeFileSync(path, text, 'latin1');
}
