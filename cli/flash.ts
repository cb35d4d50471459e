import { writeFileSync } from 'node:fs';
import type { Command } from 'commander';
import { NBITS, readBitstream } from '../core/fabric/index.ts';
import { flatBytes, formatOfName, imageOf, type MemoryImage, readImage, writeImage } from '../core/images/index.ts';
import { blankCheck, eraseFlash, planFlash, type ReachedFlash, reachFlash, readFromFlash, rehearseBoot, verifyFlash, writeToFlash } from '../core/operations/index.ts';
import { unwatched } from '../core/progress.ts';
import { ok, type Problem, ProblemError, problem, type Result, settle } from '../core/result.ts';
import { type Connection, type ConnectionOptions, connect, withConnection } from './connection.ts';
import { readBytes } from './files.ts';
import { deviceOption } from './load.ts';
import { CallError, report } from './output.ts';

interface Options extends ConnectionOptions {
  readonly device?: string;
  readonly json?: boolean;
  readonly address?: string;
  readonly length?: string;
  readonly out?: string;
  readonly rehearse?: boolean;
  readonly plan?: boolean;
}

type Work = (flash: ReachedFlash, connection: Connection) => Promise<Result<Readonly<Record<string, unknown>>>>;

const CONTAINERS = [NBITS];

export function flashCommand(program: Command, failed: () => void): void {
  const flash = program.command('flash').description('the configuration flash behind an FPGA');
  const onFlash = (command: Command) => withConnection(command.option('--device <n>', 'place of the FPGA in the chain, 0 nearest TDO; without it the first with a flash'));

  /** Reaches the chip, works, reports counts and trouble in one way. */
  const run = async (options: Options, text: (document: Readonly<Record<string, unknown>>) => string, work: Work, forPart: string | null = null) => {
    const connection = await connect(options);
    try {
      const done = await settle(async () => {
        const reached = await reachFlash(connection.cable, deviceOption(options.device), forPart);
        if (!reached.ok) return reached;
        const { part, device, bootSource, counts } = reached.value;
        const worked = await work(reached.value, connection);
        if (!worked.ok) return worked;
        const { tckCycles, payloadBits } = counts();
        return ok({ chip: `${part.maker} ${part.name}`, device, bootSource, ...worked.value, tckCycles, payloadBits });
      });
      const trouble = done.ok ? ((done.value as { problem?: Problem | null }).problem ?? null) : done.error;
      if (trouble) failed();
      const document = done.ok ? { ...done.value, problem: trouble } : { verified: false, problem: trouble };
      report(options.json ?? false, document, () => (done.ok ? text(done.value) : ''), trouble);
    } finally {
      await connection.close();
    }
  };

  onFlash(flash.command('info').description('identity, parameter table, status')).action((options: Options) =>
    run(options, (d) => `${d.chip}, identity ${d.identity}, ${Number(d.bytes) / 1024} KiB, erases ${(d.erases as { bytes: number }[]).map((erase) => `${erase.bytes / 1024} KiB`).join(', ')}${d.protected ? ', protected' : ''}`, async ({ part, parameters, status, isProtected }) =>
      ok({ identity: hexBytes(part.identity), bytes: part.bytes, erases: part.erases, page: part.page, parameters, status: `0x${status.toString(16).padStart(2, '0')}`, protected: isProtected })),
  );
  onFlash(flash.command('write').description('only sectors that differ: erase, program, verify').argument('<file>', '.nbits, Intel HEX, S-record or plain bytes').option('--address <n>', 'where plain bytes or a bitstream begin', '0').option('--plan', 'only say what would be done').option('--rehearse', 'then power-cycle and wait for DONE')).action((path: string, options: Options) => {
    const image = openImage(path, options.address);
    return run(options, (d) => (options.plan ? `${d.sectorsToErase} sectors to erase, ${d.pagesToWrite} pages to write, ${d.sectorsKept} kept.` : `${d.chip}: ${d.sectorsErased} blocks erased, ${d.pagesWritten} pages written, ${d.sectorsKept} sectors kept, verified.`), async (chip, connection) => {
      if (options.plan) return planned(chip, image);
      let [sectorsErased, pagesWritten, sectorsKept] = [0, 0, 0];
      for (const { start, bytes } of image.segments) {
        const written = await writeToFlash(chip, start, bytes, unwatched);
        if (!written.ok) return written;
        sectorsErased += written.value.sectorsErased;
        pagesWritten += written.value.pagesWritten;
        sectorsKept += written.value.sectorsKept;
      }
      const boot = options.rehearse ? await rehearse(connection, path, chip.device) : null;
      return ok({ sectorsErased, pagesWritten, sectorsKept, verified: true, rehearsal: boot?.rehearsal ?? null, problem: boot?.problem ?? null });
    }, partOf(path));
  });
  onFlash(flash.command('verify').description('compare with a file').argument('<file>').option('--address <n>', 'where plain bytes or a bitstream begin', '0')).action((path: string, options: Options) => {
    const image = openImage(path, options.address);
    return run(options, () => 'The flash holds what the file says.', async (chip) => {
      for (const { start, bytes } of image.segments) {
        const same = await verifyFlash(chip, start, bytes, unwatched);
        if (!same.ok) return same;
      }
      return ok({ verified: true });
    }, partOf(path));
  });
  onFlash(flash.command('read').description('into a file').requiredOption('--out <file>', 'its name says the format: .bin, .hex, .s37').option('--address <n>', 'from', '0').option('--length <n>', 'bytes; without it all')).action((options: Options) =>
    run(options, (d) => `${d.file}: ${d.bytes} bytes.`, async (chip) => {
      const { start, length } = stretch(chip, options);
      const bytes = await readFromFlash(chip, start, length, unwatched);
      const format = formatOfName(options.out as string) ?? 'binary';
      const file = format === 'binary' ? ok(bytes) : writeImage(imageOf(bytes, start), format, CONTAINERS);
      if (!file.ok) return file;
      writeFileSync(options.out as string, file.value);
      return ok({ file: options.out, bytes: length });
    }),
  );
  onFlash(flash.command('erase').description('whole sectors').option('--address <n>', 'from', '0').option('--length <n>', 'bytes; without it all')).action((options: Options) =>
    run(options, (d) => `${d.sectorsErased} blocks erased.`, async (chip) => {
      const { start, length } = stretch(chip, options);
      const erased = await eraseFlash(chip, start, length, unwatched);
      return erased.ok ? ok({ ...erased.value, pagesWritten: 0, verified: (await blankCheck(chip, start, length, unwatched)) === null }) : erased;
    }),
  );
  onFlash(flash.command('blank').description('whether a stretch is erased').option('--address <n>', 'from', '0').option('--length <n>', 'bytes; without it all')).action((options: Options) =>
    run(options, (d) => (d.blank ? 'Blank.' : `Not blank: the first byte that is not FF lies at 0x${Number(d.firstByte).toString(16).toUpperCase()}.`), async (chip) => {
      const { start, length } = stretch(chip, options);
      const at = await blankCheck(chip, start, length, unwatched);
      return ok({ blank: at === null, firstByte: at, problem: at === null ? null : problem('not-blank', `The byte at 0x${at.toString(16).toUpperCase()} is not FF.`, 'Erase the stretch.') });
    }),
  );
}

async function planned(chip: ReachedFlash, image: MemoryImage): Promise<Result<Readonly<Record<string, unknown>>>> {
  let [sectorsToErase, pagesToWrite, sectorsKept, typical] = [0, 0, 0, 0];
  for (const { start, bytes } of image.segments) {
    const plan = await planFlash(chip, start, bytes, unwatched);
    if (!plan.ok) return plan;
    sectorsToErase += plan.value.sectors.filter((sector) => sector.action === 'erase').length;
    sectorsKept += plan.value.sectors.filter((sector) => sector.action === 'keep').length;
    pagesToWrite += plan.value.pages.length;
    typical += plan.value.typical;
  }
  return ok({ sectorsToErase, pagesToWrite, sectorsKept, typicalMilliseconds: typical / 1000 });
}

/** A bitstream may only go behind the part it is for. */
function partOf(path: string): string | null {
  const file = readBytes(path);
  if (!NBITS.recognises(file)) return null;
  const read = readBitstream(file);
  if (!read.ok) throw new ProblemError({ ...read.error, message: `${path}: ${read.error.message}` });
  return read.value.part;
}

const hexBytes = (bytes: readonly number[]): string => bytes.map((byte) => byte.toString(16).toUpperCase().padStart(2, '0')).join(' ');

function numberOf(option: string, text: string): number {
  const value = Number(text);
  if (!Number.isInteger(value) || value < 0) throw new CallError(`${option} takes a number, not "${text}".`);
  return value;
}

function stretch({ part }: ReachedFlash, options: Options): { start: number; length: number } {
  const start = numberOf('--address', options.address ?? '0');
  return { start, length: options.length === undefined ? part.bytes - start : numberOf('--length', options.length) };
}

/** Files with addresses of their own keep them; others begin where `--address` says. */
function openImage(path: string, address: string | undefined): MemoryImage {
  const reading = readImage(readBytes(path), CONTAINERS);
  const [first] = reading.problems.filter((one) => one.severity === 'error');
  if (first) throw new ProblemError(problem(first.code, `${path}${first.line ? `, line ${first.line}` : ''}: ${first.message}`, 'Nothing was written.'));
  const start = numberOf('--address', address ?? '0');
  return reading.format === 'binary' || reading.format === 'nbits' ? imageOf(flatBytes(reading.image, 0xff), start) : reading.image;
}

async function rehearse({ cable }: Connection, path: string, device: number): Promise<{ rehearsal: unknown; problem: Problem | null }> {
  const bitstream = readBitstream(readBytes(path));
  if (!bitstream.ok) return { rehearsal: null, problem: { ...bitstream.error, message: `The boot cannot be rehearsed: ${bitstream.error.message}` } };
  const boot = await settle(() => rehearseBoot(cable, bitstream.value.part, device, unwatched));
  if (!boot.ok) return { rehearsal: null, problem: boot.error };
  const same = boot.value.done && boot.value.fingerprint === bitstream.value.fingerprint;
  return { rehearsal: { ...boot.value, sameFingerprint: same }, problem: same ? null : problem('boot-rehearsal', boot.value.done ? 'Another design booted than was written.' : boot.value.status.bootSource === 'jtag' ? 'DONE stays low: the boot switch stands at JTAG.' : 'DONE stays low after the power-cycle.', 'Check the boot switch.', 'Write the flash again.') };
}
