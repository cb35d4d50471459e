import {
  closeSync,
  createReadStream,
  existsSync,
  openSync,
  renameSync,
  statSync,
  unlinkSync,
  writeSync,
} from 'node:fs';
import type { Command } from 'commander';
import { readChainFile } from '../core/chain/index.ts';
import { FLASH_PARTS } from '../core/flash/index.ts';
import { type ChainPlace, describeMismatch, keepAsSvf, loadAsSvf, playSvf } from '../core/operations/index.ts';
import { fail, ok, ProblemError, type Result, settle } from '../core/result.ts';
import { problem } from './problems.ts';
import { NO_OFFSETS, type SvfOffsets } from '../core/svf/index.ts';
import { type Connection, type ConnectionOptions, connect, withConnection } from './connection.ts';
import { readText } from './files.ts';
import { deviceOption, openBitstream } from './load.ts';
import { CallError, report } from './output.ts';

interface PlayOptions extends ConnectionOptions {
  readonly json?: boolean;
  readonly device?: string;
  readonly goOn?: boolean;
}

interface WriteOptions extends ConnectionOptions {
  readonly json?: boolean;
  readonly out?: string;
  readonly chain?: string;
  readonly device?: string;
  readonly flash?: string;
}

export function svfCommand(program: Command, failed: () => void): void {
  const svf = program.command('svf').description('Serial Vector Format files');
  withConnection(
    svf
      .command('play')
      .description('carry out a file on the chain')
      .argument('<file>')
      .option('--device <n>', 'the file was written for this device alone: others are put into BYPASS')
      .option('--go-on', 'do not stop at the first difference'),
  ).action(async (path: string, options: PlayOptions) => {
    if (!existsSync(path) || !statSync(path).isFile()) throw new CallError(`There is no file ${path}.`);
    const device = deviceOption(options.device);
    const connection = await connect(options);
    try {
      const played = await settle(async () => {
        const offsets = device === null ? ok(NO_OFFSETS) : await offsetsOf(connection.chain, device);
        if (!offsets.ok) return offsets;
        const pieces = createReadStream(path, { highWaterMark: 1 << 18 }) as AsyncIterable<Uint8Array>;
        return ok(
          await playSvf(connection.chain.cable, pieces, connection.watch, {
            offsets: offsets.value,
            goOn: options.goOn ?? false,
            totalBytes: statSync(path).size,
          }),
        );
      });
      if (!played.ok) {
        failed();
        return report(
          options.json ?? false,
          { ok: false, line: null, mismatch: null, problem: played.error, commands: 0, tckCycles: 0 },
          () => '',
          played.error,
        );
      }
      const { ok: good, line, mismatches, commands, tckCycles, notes } = played.value;
      const [first = null] = mismatches;
      const trouble = played.value.problem ?? (first ? describeMismatch(first) : null);
      if (!good) failed();
      report(
        options.json ?? false,
        {
          ok: good,
          line,
          mismatch: first,
          mismatches: mismatches.length,
          problem: trouble,
          commands,
          tckCycles,
          notes,
        },
        () => `${commands} commands, ${tckCycles} TCK cycles.${good ? ' No difference.' : ''}`,
        trouble,
      );
    } finally {
      await connection.close();
    }
  });
  const write = svf.command('write').description('export an operation instead of carrying it out');
  for (const what of ['load', 'keep'] as const) {
    withConnection(
      write
        .command(what)
        .argument('<file>', '.nbits')
        .requiredOption('--out <file>', 'the SVF file')
        .option('--chain <file>', '.chain.json; without it the chain is scanned')
        .option('--device <n>', 'place in the chain, 0 nearest TDO')
        .option(
          '--flash <name>',
          `the flash chip (${FLASH_PARTS.map((p) => p.name).join(', ')})`,
          FLASH_PARTS[0]?.name,
        ),
    ).action(async (path: string, options: WriteOptions) => {
      const bitstream = openBitstream(path);
      const flash = FLASH_PARTS.find((part) => part.name === options.flash);
      if (!flash) throw new CallError(`There is no flash chip "${options.flash}".`);
      const place = await placeOf(bitstream.part, options);
      const written = writeWhole(options.out as string, (take) =>
        what === 'load' ? loadAsSvf(bitstream, place, take) : keepAsSvf(bitstream, flash, place, take),
      );
      if (!written.ok) throw new ProblemError(written.error);
      report(
        options.json ?? false,
        { file: options.out, bytes: written.value, device: place.index },
        () => `${options.out}: ${written.value} bytes, for device ${place.index} of ${place.irLengths.length}.`,
      );
    });
  }
}

/** Written beside its name first, so that a file of that name is always whole. */
function writeWhole(path: string, work: (take: (text: string) => void) => Result<null>): Result<number> {
  const draft = `${path}.part`;
  const file = openSync(draft, 'w');
  let bytes = 0;
  const done = work((text) => {
    bytes += writeSync(file, text);
  });
  closeSync(file);
  if (done.ok) renameSync(draft, path);
  else unlinkSync(draft);
  return done.ok ? ok(bytes) : done;
}

async function placeOf(part: string, options: WriteOptions): Promise<ChainPlace> {
  const wanted = deviceOption(options.device);
  const devices = options.chain === undefined ? await scanned(options) : expected(options.chain);
  const index = wanted ?? devices.findIndex((device) => device.parts.includes(part));
  if (index < 0) throw new ProblemError(problem('part-not-in-chain', { part }));
  return { irLengths: devices.map(({ irLength }) => irLength), index };
}

function expected(path: string): { parts: readonly string[]; irLength: number }[] {
  const read = readChainFile(path, readText(path));
  if (!read.ok) throw new ProblemError(read.error);
  return read.value.devices.map(({ part, irLength }) => ({ parts: part === null ? [] : [part], irLength }));
}

async function scanned(options: WriteOptions): Promise<{ parts: readonly string[]; irLength: number }[]> {
  const connection = await connect(options);
  try {
    const scan = await connection.chain.rescan();
    const [trouble] = scan.problems;
    if (trouble) throw new ProblemError(trouble);
    return scan.devices.map(({ candidates, irLength }) => ({ parts: candidates, irLength: irLength ?? 0 }));
  } finally {
    await connection.close();
  }
}

async function offsetsOf(chain: Connection['chain'], device: number): Promise<Result<SvfOffsets>> {
  const scan = await chain.current();
  const [trouble] = scan.problems;
  if (trouble) return fail(trouble);
  if (device >= scan.devices.length) return fail(problem('no-device', { device }));
  const around = (part: typeof scan.devices) => ({
    irBits: part.reduce((sum, { irLength }) => sum + (irLength ?? 0), 0),
    devices: part.length,
  });
  return ok({ towardsTdo: around(scan.devices.slice(0, device)), towardsTdi: around(scan.devices.slice(device + 1)) });
}
