import { writeFileSync } from 'node:fs';
import { basename } from 'node:path';
import type { Command } from 'commander';
import { parameterNumbers } from '../core/build/index.ts';
import { allCells } from '../core/families/index.ts';
import { loadBitstream, runTable } from '../core/operations/index.ts';
import { planForTable, writePlanFile } from '../core/probes/index.ts';
import { ProblemError, settle } from '../core/result.ts';
import { differencesOf, runVectors, type VectorRun } from '../core/vectors/index.ts';
import { counted } from '../core/words.ts';
import { type ConnectionOptions, connect, withConnection } from './connection.ts';
import { readText } from './files.ts';
import { openBuild } from './instrumented.ts';
import { deviceOption, loadDeed } from './load.ts';
import { CallError, report } from './output.ts';
import { parameterText, several } from './parameters.ts';
import { sourcesOf } from './sim-sources.ts';

interface PlanOptions {
  readonly top?: string;
  readonly clock?: string;
  readonly instance?: string;
  readonly param: Readonly<Record<string, string>>;
  readonly I: readonly string[];
  readonly vectors: string;
  readonly out?: string;
  readonly json?: boolean;
}

interface RunOptions extends ConnectionOptions {
  readonly probes?: string;
  readonly vectors: string;
  readonly compareWithSimulation?: string;
  readonly top?: string;
  readonly instance?: string;
  readonly clock?: string;
  readonly param: Readonly<Record<string, string>>;
  readonly I: readonly string[];
  readonly device?: string;
  readonly seed?: string;
  readonly stopAtFirst?: boolean;
  readonly json?: boolean;
}

const tableOf = (path: string) => ({ name: basename(path), text: readText(path) });

/** A table of vectors on hardware: the plan of what it needs, and the run. */
export function driveTable(group: Command, failed: () => void): void {
  group
    .command('plan')
    .description('the probe plan by which a table of vectors can be run on the hardware')
    .argument('<paths...>', 'a project folder, or source files')
    .requiredOption('--vectors <file>', 'table of inputs and expected outputs')
    .option('--top <module>')
    .option('--clock <name>', 'the clock input that a cycle means, where there are several')
    .option('--instance <path>', 'an instance inside the design, for which the table is')
    .option('--param <name=value>', 'overrides a parameter of the top module', parameterText, {})
    .option('-I <folder>', 'looks there for included and data files too', several, [])
    .option('--out <file>', 'writes the plan')
    .option('--json', 'one JSON document on standard output')
    .action((paths: string[], options: PlanOptions) => plan(paths, options));
  withConnection(
    group
      .command('run')
      .description('load, run a table of vectors on the hardware, and compare')
      .argument('<file>', '.nbits that was built with the plan for the table')
      .requiredOption('--vectors <file>', 'table of inputs and expected outputs')
      .option('--probes <file>', 'probe map of the .nbits, where it is not beside it')
      .option('--compare-with-simulation <path>', 'a project folder, or a folder or file of sources')
      .option('--top <module>', 'of the simulation')
      .option('--instance <path>', 'of the simulation: the instance that the table is for')
      .option('--clock <name>', 'of the simulation, where there are several')
      .option('--param <name=value>', 'of the simulation: a parameter of the top module', parameterText, {})
      .option('-I <folder>', 'of the simulation: looks there for included and data files too', several, [])
      .option('--device <n>', 'place in the chain, 0 nearest TDO')
      .option('--seed <n>', 'where digits of inputs are left open, they come from this number')
      .option('--stop-at-first', 'runs no row behind the first difference'),
  ).action((path: string, options: RunOptions) => run(path, options, failed));
}

function plan(paths: readonly string[], options: PlanOptions): void {
  const made = planForTable(sourcesOf(paths, options.I), tableOf(options.vectors), {
    ...(options.top === undefined ? {} : { top: options.top }),
    ...(options.clock === undefined ? {} : { clock: options.clock }),
    ...(options.instance === undefined ? {} : { instance: options.instance }),
    parameters: parameterNumbers(options.param),
    cells: allCells(),
  });
  if (!made.ok) throw new ProblemError(made.error);
  const { plan: probes, vectors, clock } = made.value;
  if (options.out !== undefined)
    writeFileSync(options.out, writePlanFile(basename(options.out).replace(/(\.plan)?\.json$/, ''), probes));
  const [panel] = probes.panels;
  report(
    options.json ?? false,
    { plan: probes, clock, rows: vectors.rows.length },
    () =>
      `${counted(panel?.levers.length ?? 0, 'lever')}, ${counted(panel?.gauges.length ?? 0, 'gauge')}, ` +
      `${clock === null ? 'no clock' : `${clock} held between rows`}; ${counted(vectors.rows.length, 'row')}`,
  );
}

async function run(path: string, options: RunOptions, failed: () => void): Promise<void> {
  const seed = seedOf(options.seed);
  const table = tableOf(options.vectors);
  const { bitstream, map } = openBuild(path, options.probes);
  const simulated =
    options.compareWithSimulation === undefined ? null : simulate(options.compareWithSimulation, options);
  const device = deviceOption(options.device);
  const connection = await connect(options);
  try {
    const { chain, watch } = connection;
    // Rows begin where the design does.
    const loaded = await settle(() => loadBitstream(chain, bitstream, device, watch));
    await connection.tell(loadDeed(bitstream, path, loaded, device));
    const trouble = loaded.ok ? loaded.value.problem : loaded.error;
    if (trouble) throw new ProblemError(trouble);
    const ran = await settle(() =>
      runTable(
        chain,
        { part: bitstream.part, device, map, table },
        { watch, seed, stopAtFirst: options.stopAtFirst ?? false },
      ),
    );
    if (!ran.ok) throw new ProblemError(ran.error);
    const { passed, failed: bad, failures, rows, stopped, notAsked } = ran.value;
    const differences = simulated && differencesOf(simulated, ran.value);
    const problem = typeof stopped === 'object' ? stopped : null;
    if (bad > 0 || stopped !== null || (differences?.length ?? 0) > 0) failed();
    const text = () =>
      [
        ...failures.map((f) => `row ${f.row}: ${f.port} is ${f.actual}, expected ${f.expected}`),
        ...(differences ?? []).map((d) => `row ${d.row}: ${d.port} is ${d.hardware}, in simulation ${d.simulation}`),
        `${passed} rows passed, ${bad} failed${stopped === null ? '' : `; stopped behind row ${rows.length}`}`,
        ...(notAsked > 0 ? [`${counted(notAsked, 'expected bit')} that hardware cannot answer for`] : []),
      ].join('\n');
    report(
      options.json ?? false,
      {
        ...{ passed, failed: bad, failures },
        ...(differences ? { differences } : {}),
        ...(stopped === null ? {} : { stopped: problem ? problem.code : stopped, rows: rows.length }),
        ...(notAsked > 0 ? { notAsked } : {}),
      },
      text,
      problem,
    );
  } finally {
    await connection.close();
  }
}

function simulate(path: string, options: RunOptions): VectorRun {
  const ran = runVectors(sourcesOf([path], options.I), tableOf(options.vectors), {
    ...(options.top === undefined ? {} : { top: options.top }),
    ...(options.instance === undefined ? {} : { instance: options.instance }),
    ...(options.clock === undefined ? {} : { clock: options.clock }),
    parameters: parameterNumbers(options.param),
    cells: allCells(),
  });
  if (!ran.ok) throw new ProblemError(ran.error);
  return ran.value;
}

function seedOf(text: string | undefined): number {
  if (text === undefined) return 1;
  if (!/^\d{1,15}$/.test(text)) throw new CallError(`--seed takes a number, not "${text}".`);
  return Number(text);
}
