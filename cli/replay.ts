import { counted } from '../core/words.ts';
import { existsSync, mkdirSync, statSync, writeFileSync } from 'node:fs';
import { basename, dirname, join } from 'node:path';
import type { Command } from 'commander';
import { z } from 'zod';
import {
  type designSettings,
  PROJECT_FILE,
  parameterNumbers,
  type Project,
  sourcesPrint,
} from '../core/build/index.ts';
import { allCells } from '../core/families/index.ts';
import {
  replayRegion,
  type ReplaySources,
  replaySources,
  replayTestbench,
  sourcesBeside,
} from '../core/operations/index.ts';
import { signalPart, writePlanFile } from '../core/probes/index.ts';
import {
  isReadBehindTheEnd,
  meaningsOf,
  meaningText,
  prepareReplay,
  type Proposal,
  proposalsFor,
  proposalWithin,
  READ_BEHIND_THE_END,
  readsAtTrigger,
  reasonText,
  type Region,
  type Replay,
  replay,
  replayPlan,
  type TestbenchFill,
  unknownText,
} from '../core/replay/index.ts';
import { ProblemError, taken } from '../core/result.ts';
import {
  type ReadAt,
  type ReadCapture,
  readCaptureJson,
  type Recording,
  VcdReader,
  writeRecordVcd,
} from '../core/wave/index.ts';
import { openProject, readBytes, readText, withNamed } from './files.ts';
import { CallError, report } from './output.ts';
import { parameterText, several } from './parameters.ts';
import { problem } from './problems.ts';
import { sourcesOf } from './sim-sources.ts';
import { terminalWatch } from './watch.ts';

interface DesignOptions {
  readonly top?: string;
  readonly param: Readonly<Record<string, string>>;
  readonly I: readonly string[];
}

interface PlanOptions extends DesignOptions {
  readonly see: readonly string[];
  readonly storedBits?: string;
  readonly insist: readonly string[];
  readonly never: readonly string[];
  readonly clock?: string;
  readonly depth: string;
  /** True where --no-at-trigger is not given. */
  readonly atTrigger: boolean;
  readonly out?: string;
  readonly json?: boolean;
}

interface ComputeOptions extends DesignOptions {
  readonly design: readonly string[];
  readonly see: readonly string[];
  readonly clock?: string;
  readonly anyBuild?: boolean;
  readonly state?: string;
  readonly out?: string;
  readonly json?: boolean;
}

interface TestbenchOptions extends ComputeOptions {
  readonly instance?: string;
  readonly unknown: string;
}

export function replayCommand(program: Command, failed: () => void): void {
  const command = program.command('replay').description('compute what was not captured from what was');
  design(
    command
      .command('plan')
      .description('the fewest bits to record so that all of an instance can be computed')
      .argument('<paths...>', 'a project folder, or source files')
      .requiredOption('--see <path>', 'an instance or a signal; may be given several times', several, [])
      .option('--stored-bits <n>', 'at most so many bits a sample; what is known longest is proposed')
      .option('--insist <signal>', 'record this one whatever follows; may be given several times', several, [])
      .option('--never <signal>', 'do not record this one; may be given several times', several, [])
      .option('--clock <signal>', 'the sampling clock, where there are several')
      .option('--depth <samples>', 'of the recorder', '1024')
      .option('--no-at-trigger', 'do not read registers once, at the trigger: leave unknown what has not been set')
      .option('--out <file>', 'write the probe plan')
      .option('--json', 'one JSON document on standard output'),
  ).action((paths: string[], options: PlanOptions) => plan(paths, options));
  computing(
    command
      .command('compute')
      .description('every signal of an instance over a record')
      .option('--out <file>', 'write all of it as a value change dump'),
  ).action(async (file: string, options: ComputeOptions) => {
    const found = await computed(file, options);
    if (found.replay.disagreements.length > 0) failed();
    tell(found.replay, options);
  });
  computing(
    command
      .command('testbench')
      .description('a record as a testbench in plain Verilog, with its data and the sources')
      .option('--instance <path>', 'which instance, where --see names several or a signal')
      .option('--unknown <fill>', 'what nobody knows is: x, zeros, ones, or a number as seed of random bits', 'x')
      .requiredOption('--out <folder>', 'folder to write to'),
  ).action(async (file: string, options: TestbenchOptions) => testbench(file, options));
}

const design = (command: Command): Command =>
  command
    .option('--top <module>', 'top module, of source files')
    .option('--param <name=value>', 'a parameter of the top module; may be given several times', parameterText, {})
    .option('-I <folder>', 'looks there for included and data files of source files too', several, []);

const computing = (command: Command): Command =>
  design(
    command
      .argument('<record>', 'a capture as JSON, or a value change dump')
      .requiredOption('--design <paths...>', 'a project folder, or source files with --top')
      .requiredOption('--see <path>', 'an instance or a signal; may be given several times', several, [])
      .option('--clock <signal>', 'the sampling clock, where there are several')
      .option('--state <file>', 'what signals were read to be at one sample, as JSON')
      .option('--any-build', 'go on though the record is of another build')
      .option('--json', 'one JSON document on standard output'),
  );

interface Opened {
  readonly sources: ReplaySources;
  /** Null for loose sources. */
  readonly project: Project | null;
}

function open(paths: readonly string[], { top, param, I: folders }: DesignOptions): Opened {
  const [first] = paths;
  if (first === undefined || !existsSync(first)) throw new CallError(`There is no file or folder ${first ?? ''}.`);
  const given = Object.keys(param).length > 0 ? param : undefined;
  if (statSync(first).isDirectory() && existsSync(join(first, PROJECT_FILE))) {
    const opened = openProject([first], top === undefined ? {} : { top });
    const project = given
      ? { ...opened, file: { ...opened.file, parameters: { ...opened.file.parameters, ...given } } }
      : opened;
    return { sources: replaySources(project), project };
  }
  const files = statSync(first).isDirectory()
    ? sourcesOf([first], folders)
    : withNamed(paths, folders).filter(({ name }) => /\.(s?vh?|hex|mem)$/.test(name));
  const options: ReturnType<typeof designSettings> = {
    cells: allCells(),
    ...(top === undefined ? {} : { top }),
    ...(given ? { parameters: parameterNumbers(given) } : {}),
  };
  return { sources: { files, options }, project: null };
}

function plan(paths: readonly string[], options: PlanOptions): void {
  const depth = Number(options.depth);
  if (!Number.isInteger(depth) || depth < 16 || (depth & (depth - 1)) !== 0)
    throw new CallError('--depth takes a power of two, 16 or more.');
  const bits = options.storedBits === undefined ? null : Number(options.storedBits);
  if (bits !== null && !(Number.isInteger(bits) && bits > 0))
    throw new CallError('--stored-bits takes a whole number.');
  const { sources } = open(paths, options);
  const region = taken(replayRegion(sources, { see: options.see, clock: options.clock }));
  const limits = { insist: fullNames(region, options.insist), never: fullNames(region, options.never) };
  const proposal = taken(proposalWithin(taken(proposalsFor(region, limits)), bits));
  const reads = options.atTrigger && readsAtTrigger(proposal);
  if (options.out !== undefined) {
    const name = basename(options.out).replace(/(\.plan)?\.json$/, '');
    writeFileSync(options.out, writePlanFile(name, replayPlan(region.clock.name, proposal, { depth, reads })));
  }
  report(options.json ?? false, planDocument(region, proposal, reads), () =>
    planText(region, proposal, { reads, out: options.out }),
  );
}

/** Names within the top module are completed; what the design does not have is refused. */
function fullNames({ design: { signals } }: Region, names: readonly string[]): string[] {
  const top = signals[0]?.name.split('.')[0] ?? '';
  return names.map((name) => {
    const found = [name, `${top}.${name}`].find((one) =>
      signals.some(({ name: of, width }) => {
        const part = signalPart(one);
        return of === one || of.startsWith(`${one}.`) || (part?.signal === of && part.lo + part.width <= width);
      }),
    );
    if (found === undefined) throw new ProblemError(problem('no-such-signal', { name }));
    return found;
  });
}

const planDocument = (region: Region, { stored, factor, ...proposal }: Proposal, reads: boolean) => ({
  stored: proposal.storedBits,
  seen: proposal.seenBits + proposal.alongBits,
  region: proposal.seenBits,
  along: proposal.alongBits,
  memoryBits: proposal.memoryBits,
  factor: rounded(factor),
  trust: proposal.trust,
  reach: proposal.reach,
  clock: region.clock.name,
  signals: stored,
  atTrigger: reads ? proposal.readable : [],
  unknown: reads ? proposal.unknownIfRead : proposal.unknown,
});

const asItIs = (name: string): string => name;

const rounded = (factor: number): number => Math.round(factor * 100) / 100;

interface PlanWritten {
  readonly reads: boolean;
  readonly out: string | undefined;
}

function planText(region: Region, proposal: Proposal, { reads, out }: PlanWritten): string {
  const { stored, storedBits, seenBits, alongBits, factor, readable, readableBits } = proposal;
  const unknown = reads ? proposal.unknownIfRead : proposal.unknown;
  return [
    `${counted(storedBits, 'bit')} stored at ${region.clock.name}, ${seenBits} seen, ${alongBits} more follow: ` +
      `${rounded(factor)} for one${out === undefined ? '' : `; written to ${out}`}`,
    ...(reads
      ? [`${counted(readableBits, 'bit')} read once, at the trigger: ${readable.map(({ name }) => name).join(', ')}`]
      : []),
    ...stored.map(({ name, width }) => `  ${name}  ${width}`),
    ...(unknown.length > 0 ? ['not known from the first sample on:'] : []),
    ...unknown.map((one) => `  ${one.signal}: ${unknownText(one, asItIs)}`),
  ].join('\n');
}

/** Words of values that are kept: about 800 MB. */
const MOST_KEPT = 1 << 26;

interface Found {
  readonly sources: ReplaySources;
  readonly replay: Replay;
}

async function computed(file: string, options: ComputeOptions): Promise<Found> {
  const { sources, project } = open(options.design, options);
  const { record, capture, stamps } = readRecord(file);
  if (capture?.sources && project && !options.anyBuild) {
    const here = sourcesPrint(project);
    if (here !== capture.sources)
      throw new ProblemError(problem('another-build', { recorded: capture.sources, given: here }));
  }
  const levers = capture?.levers.map(({ signal }) => signal) ?? [];
  const region = taken(replayRegion(sources, { see: options.see, clock: options.clock }, levers));
  const readings = [
    ...(capture?.readings ?? []),
    ...(options.state === undefined ? [] : [readState(region, options.state)]),
  ];
  const about = { synchronised: capture?.synchronised, readings };
  const prepared = taken(prepareReplay(region, record, stamps ? { stamps } : 'samples', about));
  const watch = terminalWatch();
  const done = await replay(prepared, watch, { mostKept: MOST_KEPT }).finally(() => watch.end());
  for (const { signal, moment } of done.detail.unusedReadings)
    console.error(
      `${signal}, read at sample ${moment}, told nothing: nothing that it depends on follows from it alone`,
    );
  if (done.cut !== null)
    console.error(`computed are the first ${done.cut} of ${counted(done.samples, 'sample')}: more is not kept`);
  if (isReadBehindTheEnd(capture?.atTrigger ?? [], readings)) console.error(READ_BEHIND_THE_END);
  for (const reason of done.missing) console.error(reasonText(reason, asItIs));
  for (const { name, width, wanted } of done.unmatched.misfits)
    console.error(`${name} has ${counted(width, 'bit')} in the record and ${wanted} in the design; it is left out`);
  return { sources, replay: done };
}

const stateFile = z.object({
  sample: z.number().int().nonnegative().default(0),
  values: z.record(z.string(), z.string().regex(/^\d+$|^0x[0-9a-fA-F]+$|^0b[01]+$/)),
});

/** Values by names: `{"sample": 0, "values": {"u_count.value": "5"}}`. */
function readState(region: Region, path: string): ReadAt {
  let data: unknown;
  try {
    data = JSON.parse(readText(path));
  } catch (error) {
    if (error instanceof ProblemError) throw error;
    throw new ProblemError(problem('bad-state', { file: path, why: error instanceof Error ? error.message : '' }));
  }
  const read = stateFile.safeParse(data);
  if (!read.success) {
    const [issue] = read.error.issues;
    throw new ProblemError(
      problem('bad-state', { file: path, why: `${issue?.path.join('.') ?? ''}: ${issue?.message ?? ''}` }),
    );
  }
  const { sample, values } = read.data;
  const named = Object.entries(values).map(([name, value]) => {
    const [signal = name] = fullNames(region, [name]);
    return [signal, String(BigInt(value))];
  });
  return { sample, how: 'trigger', values: Object.fromEntries(named) };
}

interface ReadRecord {
  readonly record: Recording;
  readonly capture: ReadCapture | null;
  readonly stamps: Float64Array | null;
}

function readRecord(file: string): ReadRecord {
  if (/\.json$/i.test(file)) {
    const capture = taken(readCaptureJson(basename(file), readText(file)));
    return { record: capture.recording, capture, stamps: null };
  }
  const reader = new VcdReader({ stamps: true });
  reader.push(readBytes(file));
  const facts = reader.finish();
  const [wrong] = facts.problems.filter(({ severity }) => severity === 'error');
  if (!facts.valid)
    throw new ProblemError(problem('bad-record', { file, line: wrong?.line ?? 1, why: wrong?.message ?? '' }));
  const record = reader.recording(basename(file));
  const { stamps } = reader;
  const end = record.traces.reduce((most, { at }) => Math.max(most, at.at(-1) ?? 0), 0);
  // A last time without values says where the dump ends.
  const isEnd = stamps.length > 1 && (stamps.at(-1) ?? 0) > end;
  return { record, capture: null, stamps: isEnd ? stamps.slice(0, -1) : stamps };
}

function tell(done: Replay, options: ComputeOptions): void {
  const { stored, seen, samples, unknown, disagreements, unmatched } = done;
  if (options.out !== undefined) {
    const { prepared, recording } = done;
    const isSampled = prepared.record.sampled;
    const all = { ...recording, length: Math.max(recording.length, (prepared.moments.ticks.at(-1) ?? 0) + 1) };
    const names = `${options.see.join(', ')}, computed from ${basename(prepared.record.title)}`;
    const unit = isSampled ? '1 ps' : unitOf(recording.tickSeconds);
    writeFileSync(options.out, writeRecordVcd(all, new Date().toISOString(), names, unit));
  }
  const meanings = meaningsOf(done);
  const document = {
    stored,
    seen,
    factor: stored === 0 ? 0 : rounded(seen / stored),
    samples,
    ...(done.cut === null ? {} : { cut: done.cut }),
    unknown: unknown.map(({ signal, samples: count, why }) => ({
      signal,
      samples: count,
      ...(why ? { why: reasonText(why, asItIs) } : {}),
    })),
    disagreements: disagreements.map(({ tick: _, ...one }, i) => ({ ...one, means: meanings[i] ?? 'logic' })),
    unmatched: unmatched.names,
  };
  report(options.json ?? false, document, () =>
    [
      `${counted(stored, 'bit')} stored, ${seen} seen in ${counted(samples, 'sample')}`,
      ...unknown.map((one) => `  ${one.signal}: not known in ${counted(one.samples, 'sample')}`),
      ...disagreements.map(
        (one, i) =>
          `sample ${one.sample}: ${one.signal} was ${one.recorded}, the design makes it ${one.computed}. ` +
          meaningText(meanings[i] ?? 'logic'),
      ),
      ...(options.out === undefined ? [] : [`written to ${options.out}`]),
    ].join('\n'),
  );
}

/** The timescale that a tick is. */
function unitOf(tickSeconds: number): string {
  const units = ['s', 'ms', 'us', 'ns', 'ps', 'fs'];
  for (const [i, unit] of units.entries())
    for (const count of [100, 10, 1])
      if (Math.abs(tickSeconds / (count * 10 ** (-3 * i)) - 1) < 1e-6) return `${count} ${unit}`;
  return '1 ps';
}

async function testbench(file: string, options: TestbenchOptions): Promise<void> {
  const { sources, replay: done } = await computed(file, options);
  const instance = options.instance ?? options.see[0] ?? '';
  const made = taken(replayTestbench(sources, done, instance, fillOf(options.unknown)));
  const folder = options.out ?? '.';
  const beside = sourcesBeside(sources);
  for (const { name, text } of [...beside, ...made.files]) write(folder, name, text);
  const { name, samples, compared } = made;
  report(
    options.json ?? false,
    { testbench: name, samples, compared, files: [...beside, ...made.files].map((one) => one.name) },
    () =>
      `${name}.v with ${counted(samples, 'sample')} in ${folder}; run it with: ` +
      `nimble sim ${folder} --testbench ${name}`,
  );
}

function write(folder: string, name: string, text: string): void {
  // Names of sources are as they lie beside each other: none of them leads out of the folder.
  const inside = name
    .split('/')
    .filter((part) => part !== '..' && part !== '.')
    .join('/');
  const path = join(folder, inside);
  mkdirSync(dirname(path), { recursive: true });
  writeFileSync(path, text);
}

function fillOf(text: string): TestbenchFill {
  if (text === 'x' || text === 'zeros' || text === 'ones') return text;
  if (/^\d+$/.test(text)) return { seed: Number(text) };
  throw new CallError('--unknown takes x, zeros, ones, or a whole number.');
}
