// `nimble pod`: files that a pod holds and carries out by itself.
import { createHash } from 'node:crypto';
import { createReadStream, existsSync, readFileSync, statSync } from 'node:fs';
import { basename } from 'node:path';
import type { Command } from 'commander';
import { readBitstream } from '../core/families/index.ts';
import type { PodClient, StagedFile } from '../core/pod/index.ts';
import { ProblemError } from '../core/result.ts';
import { enteredPod } from './connection.ts';
import { CallError, report } from './output.ts';
import { deviceOption } from './load.ts';
import { problem } from './problems.ts';
import { terminalWatch } from './watch.ts';

interface PodOptions {
  readonly pod?: string;
  readonly token?: string;
  readonly json?: boolean;
}

interface RunOptions extends PodOptions {
  readonly device?: string;
  readonly follow?: boolean;
}

const LOOK_MILLISECONDS = 200;
const READ_BYTES = 1 << 18;
const SHORT_DIGITS = 12;

const withPod = (command: Command): Command =>
  command
    .requiredOption('--pod <address>', 'a running pod, as ws://host:port')
    .option('--token <text>', 'token of the pod; NIMBLE_POD_TOKEN otherwise')
    .option('--json', 'one JSON document on standard output');

export function podCommand(program: Command, failed: () => void): void {
  const pod = program.command('pod').description('files that a pod holds and carries out by itself');

  withPod(pod.command('files').description('what the pod holds')).action((options: PodOptions) =>
    atPod(options, async (client) => {
      const files = await client.staged();
      report(options.json ?? false, { files: files.map(shown) }, () =>
        files.length === 0 ? 'The pod holds no files.' : files.map(lineOf).join('\n'),
      );
    }),
  );

  withPod(
    pod.command('send').description('send a bitstream or an SVF file; the pod checks its digest').argument('<file>'),
  ).action((path: string, options: PodOptions) =>
    atPod(options, async (client) => {
      const file = await send(client, path);
      report(options.json ?? false, file, () => `${file.known ? 'The pod has it already' : 'Sent'}: file ${file.id}.`);
    }),
  );

  withPod(
    pod
      .command('run')
      .description('have the pod carry a file out; it goes on without this command')
      .argument('<file>', 'its number or its name')
      .option('--device <n>', 'place of the FPGA in the chain, for a bitstream')
      .option('--follow', 'show its log until it ends'),
  ).action((which: string, options: RunOptions) =>
    atPod(options, async (client) => {
      const file = await found(client, which);
      await client.execute(file.id, kindOf(file.name), deviceOption(options.device));
      if (!options.follow)
        return report(options.json ?? false, { id: file.id, begun: true }, () => `File ${file.id} has begun.`);
      const ended = await followed(client, file.id, options.json ?? false);
      if (ended.problem) failed();
      report(options.json ?? false, shown(ended), () => '', ended.problem);
    }),
  );

  withPod(pod.command('log').description('how the last run went').argument('<file>', 'its number or its name')).action(
    (which: string, options: PodOptions) =>
      atPod(options, async (client) => {
        const file = await found(client, which);
        if (file.problem) failed();
        report(options.json ?? false, shown(file), () => file.log.join('\n'), file.problem);
      }),
  );

  withPod(
    pod.command('stop').description('ask the pod to stop what runs').argument('<file>', 'its number or its name'),
  ).action((which: string, options: PodOptions) =>
    atPod(options, async (client) => {
      const { id } = await found(client, which);
      await client.stopStaged(id);
      report(options.json ?? false, { id, asked: true }, () => `File ${id} is asked to stop.`);
    }),
  );

  withPod(
    pod.command('drop').description('remove a file from the pod').argument('<file>', 'its number or its name'),
  ).action((which: string, options: PodOptions) =>
    atPod(options, async (client) => {
      const { id } = await found(client, which);
      await client.dropStaged(id);
      report(options.json ?? false, { id, dropped: true }, () => `File ${id} is removed.`);
    }),
  );
}

async function atPod(options: PodOptions, work: (client: PodClient) => Promise<void>): Promise<void> {
  const client = await enteredPod(options.pod ?? '', options.token);
  try {
    await work(client);
  } finally {
    client.close();
  }
}

const shown = ({ log, ...file }: StagedFile) => ({ ...file, kind: kindOf(file.name), log });

const lineOf = ({ id, name, bytes, sha256, state }: StagedFile): string =>
  `${String(id).padStart(3)}  ${state.padEnd(8)}  ${bytes.toLocaleString('en').padStart(13)} B  ` +
  `${sha256.slice(0, SHORT_DIGITS)}  ${name}`;

/** A bitstream of ours is loaded; everything else is played as SVF, whose reader says where it is none. */
const kindOf = (name: string): 'load' | 'svf' => (/\.nbits$/i.test(name) ? 'load' : 'svf');

async function found(client: PodClient, which: string): Promise<StagedFile> {
  const files = await client.staged();
  const file = files.find(({ id, name }) => String(id) === which || name === which);
  if (file) return file;
  throw new ProblemError(problem('no-staged', { which, names: files.map(({ name }) => name).join(', ') || 'none' }));
}

interface Sent {
  readonly id: number;
  readonly name: string;
  readonly bytes: number;
  readonly sha256: string;
  /** The pod had it already. */
  readonly known: boolean;
}

async function send(client: PodClient, path: string): Promise<Sent> {
  if (!existsSync(path) || !statSync(path).isFile()) throw new CallError(`There is no file ${path}.`);
  const { size } = statSync(path);
  refuseOther(path);
  const digest = createHash('sha256');
  for await (const chunk of chunksOf(path)) digest.update(chunk);
  const sha256 = digest.digest('hex');
  const name = basename(path);
  const there = (await client.staged()).find((one) => one.sha256 === sha256 && one.name === name);
  if (there && there.state !== 'arriving') return { id: there.id, name, bytes: size, sha256, known: true };
  const watch = terminalWatch();
  try {
    const id = await client.stage({ name, size, sha256, bytes: chunksOf(path) }, (sent) => {
      watch.report({ phase: 'Sending', done: sent, total: size, unit: 'B' });
      if (watch.cancelled()) throw new ProblemError(problem('cancelled (sending)'));
    });
    return { id, name, bytes: size, sha256, known: false };
  } finally {
    watch.end();
  }
}

/** A file that says it is a bitstream and is none is told here, not at the desk where the pod stands. */
function refuseOther(path: string): void {
  const read = kindOf(path) === 'load' ? readBitstream(new Uint8Array(readFileSync(path))) : null;
  if (read && !read.ok) throw new ProblemError(read.error);
}

async function* chunksOf(path: string): AsyncIterable<Uint8Array> {
  for await (const chunk of createReadStream(path, { highWaterMark: READ_BYTES })) yield new Uint8Array(chunk);
}

/** Shows the lines of the log as they come, on standard error where a document is wanted. */
async function followed(client: PodClient, id: number, quiet: boolean): Promise<StagedFile> {
  let seen = 0;
  for (;;) {
    const file = (await client.staged()).find((one) => one.id === id);
    if (!file) throw new ProblemError(problem('no-staged', { which: id, names: 'it is gone' }));
    for (const line of file.log.slice(seen)) (quiet ? console.error : console.log)(line);
    seen = file.log.length;
    if (file.state !== 'running') return file;
    await new Promise((resolve) => setTimeout(resolve, LOOK_MILLISECONDS));
  }
}
