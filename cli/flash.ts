import { writeFileSync } from 'node:fs';
import { basename } from 'node:path';
import type { Command } from 'commander';
import { NBITS } from '../core/families/index.ts';
import { planWriting, type WritePlan, type WriteReport } from '../core/flash/index.ts';
import { BLOCK_ROLES, formatOfName, imageOf, writeImage } from '../core/images/index.ts';
import {
  allowed,
  type BareFlash,
  blankCheck,
  crcOfFlash,
  eraseFlash,
  fillFlash,
  type KeepBlock,
  keepBlocks,
  planBlocks,
  type ReachedFlash,
  reachFlash,
  reachThroughBridge,
  readFromFlash,
  readyToKeep,
  type RehearsalKind,
  rehearseBoot,
  verifyFlash,
  writeToFlash,
} from '../core/operations/index.ts';
import type { PodDeed } from '../core/pod/index.ts';
import { fail, ok, type Problem, type Result, settle, problem as plainProblem } from '../core/result.ts';
import { problem } from './problems.ts';
import { type Connection, type ConnectionOptions, connect, withConnection } from './connection.ts';
import { type BlockOptions, numberOf, openBlocks, partOfBlocks } from './flash-blocks.ts';
import { runInstrumented } from './instrumented.ts';
import { deviceOption } from './load.ts';
import { CallError, report } from './output.ts';

interface Options extends ConnectionOptions, BlockOptions {
  readonly device?: string;
  readonly json?: boolean;
  readonly length?: string;
  readonly out?: string;
  readonly byte?: string;
  readonly flash?: string;
  readonly rehearse?: boolean;
  readonly reconfigure?: boolean;
  readonly replaceGolden?: boolean;
  readonly plan?: boolean;
  /** Project whose design has the bridge, and the plan it was built with. */
  readonly bridge?: string;
  readonly bridgePlan?: string;
  /** The file that was named. */
  readonly source?: string;
}

type Work = (
  flash: BareFlash & Partial<ReachedFlash>,
  connection: Connection,
) => Promise<Result<Readonly<Record<string, unknown>>>>;

const CONTAINERS = [NBITS];

export function flashCommand(program: Command, failed: () => void): void {
  const flash = program.command('flash').description('the configuration flash behind an FPGA');
  const run = runner(failed);
  for (const add of [addInfo, addWrite, addVerify, addRead, addErase, addBlank, addCrc, addFill]) add(flash, run);
}

const onFlash = (command: Command): Command =>
  withConnection(
    command
      .option('--device <n>', 'place of the FPGA in the chain, 0 nearest TDO; without it the first with a flash')
      .option('--bridge <folder>', 'project whose design runs and has a bridge to the flash')
      .option('--bridge-plan <file>', 'the probe plan with the bridge'),
  );

type Run = ReturnType<typeof runner>;

/** Reaches the chip, works, reports counts and trouble in one way. */
function runner(failed: () => void) {
  return async (
    options: Options,
    text: (document: Readonly<Record<string, unknown>>) => string,
    work: Work,
    forPart: string | null = null,
  ) => {
    const connection = await connect(options);
    try {
      const done = await settle(async () => {
        const reached = await reach(connection, options, forPart);
        if (!reached.ok) return reached;
        const { part, device, counts } = reached.value;
        const bootSource = 'bootSource' in reached.value ? reached.value.bootSource : null;
        const worked = await work(reached.value, connection);
        if (!worked.ok) return worked;
        const { tckCycles, payloadBits } = counts();
        return ok({
          chip: `${part.maker} ${part.name}`,
          device,
          bootSource,
          sectorsErased: 0,
          pagesWritten: 0,
          verified: false,
          tckCycles,
          payloadBits,
          ...worked.value,
        });
      });
      const trouble = done.ok ? ((done.value as { problem?: Problem | null }).problem ?? null) : done.error;
      if (trouble) failed();
      const document = done.ok ? { ...done.value, problem: trouble } : { verified: false, problem: trouble };
      report(options.json ?? false, document, () => (done.ok ? text(done.value) : ''), trouble);
    } finally {
      await connection.close();
    }
  };
}

async function reach(
  connection: Connection,
  options: Options,
  forPart: string | null,
): Promise<Result<BareFlash | ReachedFlash>> {
  const device = deviceOption(options.device);
  if (options.bridge === undefined) return reachFlash(connection.chain, device, forPart);
  const { part, map } = await runInstrumented(connection, options.bridge, { plan: options.bridgePlan }, device);
  return reachThroughBridge(connection.chain, { part, device, map });
}

function addInfo(flash: Command, run: Run): void {
  onFlash(flash.command('info').description('identity, parameter table, status')).action((options: Options) =>
    run(
      options,
      (d) =>
        `${d.chip}, identity ${d.identity}, ${Number(d.bytes) / 1024} KiB, erases ` +
        `${(d.erases as { bytes: number }[]).map((erase) => `${erase.bytes / 1024} KiB`).join(', ')}` +
        `${d.protected ? ', protected' : ''}`,
      async ({ part, parameters, status, isProtected }) =>
        ok({
          identity: hexBytes(part.identity),
          bytes: part.bytes,
          erases: part.erases,
          page: part.page,
          parameters,
          status: `0x${status.toString(16).padStart(2, '0')}`,
          protected: isProtected,
        }),
    ),
  );
}

function addWrite(flash: Command, run: Run): void {
  onFlash(
    blockOptions(
      flash
        .command('write')
        .description('only sectors that differ: erase, program, verify')
        .argument('<file>', '.nbits, Intel HEX, S-record, plain bytes or .layout.json'),
    ),
  )
    .option('--flash <name>', 'the chip that should be there; another one is refused')
    .option('--plan', 'only say what would be done')
    .option('--replace-golden', 'write the golden image although another one stands in its place')
    .option('--rehearse', 'then power-cycle and wait for DONE')
    .option('--reconfigure', 'rehearse with the reconfigure wire instead')
    .action((path: string, options: Options) => {
      const blocks = openBlocks(path, options);
      const fpga = partOfBlocks(blocks, path);
      return run(
        options,
        (d) =>
          options.plan
            ? `${d.sectorsToErase} sectors to erase, ${d.pagesToWrite} pages to write, ${d.sectorsKept} kept.`
            : `${d.chip}: ${d.sectorsErased} blocks erased, ${d.pagesWritten} pages written, ${d.sectorsKept} ` +
              'sectors kept, verified.',
        (chip, connection) =>
          isOwn(chip)
            ? write(chip, connection, blocks, fpga, { ...options, source: path })
            : writeBare(chip, connection, blocks, options),
        fpga,
      );
    });
}

function addVerify(flash: Command, run: Run): void {
  onFlash(blockOptions(flash.command('verify').description('compare with a file').argument('<file>'))).action(
    (path: string, options: Options) => {
      const blocks = openBlocks(path, options);
      return run(
        options,
        () => 'The flash holds what the file says.',
        async (chip, connection) => {
          const same = await verifyFlash(chip, blocks, connection.watch);
          return same.ok ? ok({ verified: true }) : same;
        },
        partOfBlocks(blocks, path),
      );
    },
  );
}

function addRead(flash: Command, run: Run): void {
  onFlash(
    flash
      .command('read')
      .description('into a file')
      .requiredOption('--out <file>', 'its name says the format: .bin, .hex, .s37')
      .option('--address <n>', 'from', '0')
      .option('--length <n>', 'bytes; without it all'),
  ).action((options: Options) =>
    run(
      options,
      (d) => `${d.file}: ${d.bytes} bytes.`,
      async (chip, connection) => {
        const { start, length } = stretch(chip, options);
        const bytes = await readFromFlash(chip, start, length, connection.watch);
        if (!bytes.ok) return bytes;
        const format = formatOfName(options.out as string) ?? 'binary';
        const file = format === 'binary' ? bytes : writeImage(imageOf(bytes.value, start), format, CONTAINERS);
        if (!file.ok) return file;
        writeFileSync(options.out as string, file.value);
        return ok({ file: options.out, bytes: length });
      },
    ),
  );
}

function addErase(flash: Command, run: Run): void {
  onFlash(
    flash
      .command('erase')
      .description('whole sectors')
      .option('--address <n>', 'from', '0')
      .option('--length <n>', 'bytes; without it all'),
  ).action((options: Options) =>
    run(
      options,
      (d) => `${d.sectorsErased} blocks erased.`,
      async (chip, connection) => {
        const { start, length } = stretch(chip, options);
        const erased = await eraseFlash(chip, start, length, connection.watch);
        await connection.tell(
          flashDeed(chip, {
            message: erased.ok ? `${erased.value.sectorsErased} blocks erased.` : erased.error.message,
            isDone: erased.ok,
          }),
        );
        if (!erased.ok) return erased;
        const blank = await blankCheck(chip, start, length, connection.watch);
        return blank.ok ? ok({ ...erased.value, pagesWritten: 0, verified: blank.value === null }) : blank;
      },
    ),
  );
}

function addBlank(flash: Command, run: Run): void {
  onFlash(
    flash
      .command('blank')
      .description('whether a stretch is erased')
      .option('--address <n>', 'from', '0')
      .option('--length <n>', 'bytes; without it all'),
  ).action((options: Options) =>
    run(
      options,
      (d) =>
        d.blank
          ? 'Blank.'
          : `Not blank: the first byte that is not FF lies at 0x${Number(d.firstByte).toString(16).toUpperCase()}.`,
      async (chip, connection) => {
        const { start, length } = stretch(chip, options);
        const found = await blankCheck(chip, start, length, connection.watch);
        if (!found.ok) return found;
        const at = found.value;
        return ok({
          blank: at === null,
          firstByte: at,
          problem: at === null ? null : problem('not-blank', { at: at.toString(16).toUpperCase() }),
        });
      },
    ),
  );
}

function addCrc(flash: Command, run: Run): void {
  onFlash(
    flash
      .command('crc')
      .description('CRC-32 of a stretch')
      .option('--address <n>', 'from', '0')
      .option('--length <n>', 'bytes; without it all'),
  ).action((options: Options) =>
    run(
      options,
      (d) => `${d.bytes} bytes, CRC-32 ${d.crc32}.`,
      async (chip, connection) => {
        const { start, length } = stretch(chip, options);
        const crc = await crcOfFlash(chip, start, length, connection.watch);
        return crc.ok ? ok({ address: start, bytes: length, crc32: crc.value }) : crc;
      },
    ),
  );
}

function addFill(flash: Command, run: Run): void {
  onFlash(
    flash
      .command('fill')
      .description('a stretch with one byte')
      .option('--address <n>', 'from', '0')
      .requiredOption('--length <n>', 'bytes')
      .requiredOption('--byte <n>', '0 to 255'),
  ).action((options: Options) =>
    run(
      options,
      (d) => `${d.sectorsErased} blocks erased, ${d.pagesWritten} pages written, verified.`,
      async (chip, connection) => {
        const { start, length } = stretch(chip, options);
        const byte = numberOf('--byte', options.byte ?? '');
        if (byte > 255) throw new CallError('--byte takes a number from 0 to 255.');
        const filled = await fillFlash(chip, start, length, byte, connection.watch);
        await connection.tell(
          flashDeed(chip, { message: filled.ok ? `${length} bytes filled.` : filled.error.message, isDone: filled.ok }),
        );
        return spread(filled);
      },
    ),
  );
}

const blockOptions = (command: Command): Command =>
  command
    .option('--address <n>', 'where plain bytes or a bitstream begin', '0')
    .option('--as <role>', `${BLOCK_ROLES.join(', ')}; without it a bitstream at 0 is an image, all else data`)
    .option('--build <file>', 'the .nbits that a layout means by its newest build')
    .option('--table <file>', 'values of boards, one a line')
    .option('--row <n>', 'which line of the table, from 1')
    .option('--set <name=value...>', 'a value of this board');

const isOwn = (chip: BareFlash & Partial<ReachedFlash>): chip is ReachedFlash => chip.through !== undefined;

/** Behind a bridge nothing is known of what boots: what is given is written where it says, and compared. */
async function writeBare(
  chip: BareFlash,
  { watch, tell }: Connection,
  blocks: readonly KeepBlock[],
  { flash: expected, plan, rehearse, reconfigure }: Options,
): Promise<Result<Readonly<Record<string, unknown>>>> {
  if (rehearse || reconfigure) return fail(problem('bridge-rehearse'));
  if (expected !== undefined && expected !== chip.part.name)
    return fail(problem('other-chip', { expected, found: `${chip.part.maker} ${chip.part.name}` }));
  if (plan) return planned(await planWriting(chip.port, chip.part, blocks, watch));
  const written = await writeToFlash(chip, blocks, watch);
  const message = written.ok ? `${written.value.pagesWritten} pages written.` : written.error.message;
  await tell(flashDeed(chip, { message, isDone: written.ok }));
  return spread(written);
}

/** What is written is checked as the page would, plan or not: the same words, the same end. */
async function write(
  chip: ReachedFlash,
  connection: Connection,
  blocks: readonly KeepBlock[],
  named: string | null,
  options: Options,
): Promise<Result<Readonly<Record<string, unknown>>>> {
  const { chain } = connection;
  const fpga = named ?? (await partAt(chain, chip.device));
  if (fpga === null) return fail(problem('ir-unknown', { device: chip.device }));
  const request = {
    fpga,
    device: chip.device,
    blocks,
    stale: [],
    expects: options.flash ?? null,
    replaceGolden: options.replaceGolden ?? false,
  };
  const ready = await readyToKeep(chain, request, connection.watch);
  if (!ready.ok) return ready;
  for (const { state, message } of ready.value.checks) if (state === 'warn') console.error(`warning: ${message}`);
  const may = allowed(ready.value.checks);
  if (!may.ok) return may;
  if (options.plan) {
    const plan = planned(await planBlocks(ready.value.flash, blocks, ready.value.look, request, connection.watch));
    return plan.ok ? ok({ ...plan.value, checks: ready.value.checks }) : plan;
  }
  const kept = await keepBlocks(chain, request, connection.watch);
  await connection.tell(
    flashDeed(chip, {
      fpga,
      source: options.source,
      fingerprint: kept.ok ? kept.value.boots : null,
      message: kept.ok
        ? `${kept.value.sectorsErased} blocks erased, ${kept.value.pagesWritten} pages written and verified.`
        : kept.error.message,
      isDone: kept.ok,
      leaves: kept.ok && kept.value.boots === null && !kept.value.replaced,
    }),
  );
  if (!kept.ok) return kept;
  const by = options.reconfigure ? 'reconfigure' : options.rehearse ? 'power' : null;
  const boot = by ? await rehearse(connection, fpga, chip.device, kept.value.boots, by) : null;
  const {
    sectorsErased,
    pagesWritten,
    sectorsKept,
    verified,
    golden,
    headerWritten,
    boots,
    uniqueId,
    tckCycles,
    payloadBits,
  } = kept.value;
  return ok({
    sectorsErased,
    pagesWritten,
    sectorsKept,
    verified,
    golden,
    headerWritten,
    boots,
    uniqueId,
    tckCycles,
    payloadBits,
    checks: ready.value.checks,
    rehearsal: boot?.rehearsal ?? null,
    problem: boot?.problem ?? null,
  });
}

/** The part at a place of the chain, as its IDCODE says; of several that share it, the first. */
async function partAt(chain: Connection['chain'], device: number): Promise<string | null> {
  const { devices } = await chain.current();
  return devices[device]?.part ?? null;
}

/** How a change of the flash went. */
interface Done {
  readonly message: string;
  readonly isDone: boolean;
  readonly fpga?: string;
  readonly source?: string | undefined;
  readonly fingerprint?: string | null;
  /** What boots is as it was. */
  readonly leaves?: boolean;
}

/** A change of the flash as others at the pod are told of it. */
const flashDeed = (
  chip: BareFlash,
  { message, isDone, fpga = '', source = '', fingerprint = null, leaves = false }: Done,
): PodDeed => ({
  kind: 'flash',
  outcome: isDone ? 'done' : 'failed',
  device: chip.device,
  part: fpga,
  fingerprint,
  source: basename(source).slice(0, 200),
  verified: isDone ? true : null,
  leaves,
  chip: `${chip.part.maker} ${chip.part.name}`,
  message: message.slice(0, 1000),
});

const spread = (report: Result<WriteReport>): Result<Readonly<Record<string, unknown>>> =>
  report.ok ? ok({ ...report.value }) : report;

const planned = (plan: Result<WritePlan>): Result<Readonly<Record<string, unknown>>> =>
  plan.ok
    ? ok({
        sectorsToErase: plan.value.sectors.filter((sector) => sector.action === 'erase').length,
        pagesToWrite: plan.value.pages.length,
        sectorsKept: plan.value.sectors.filter((sector) => sector.action === 'keep').length,
        typicalMilliseconds: plan.value.typical / 1000,
      })
    : plan;

const hexBytes = (bytes: readonly number[]): string =>
  bytes.map((byte) => byte.toString(16).toUpperCase().padStart(2, '0')).join(' ');

function stretch({ part }: BareFlash, options: Options): { start: number; length: number } {
  const start = numberOf('--address', options.address ?? '0');
  return { start, length: options.length === undefined ? part.bytes - start : numberOf('--length', options.length) };
}

async function rehearse(
  { chain, watch }: Connection,
  fpga: string,
  device: number,
  wanted: string | null,
  by: RehearsalKind,
): Promise<{ rehearsal: unknown; problem: Problem | null }> {
  const boot = await settle(() => rehearseBoot(chain, fpga, device, watch, by));
  if (!boot.ok) return { rehearsal: null, problem: boot.error };
  const { done, fingerprint, status } = boot.value;
  const same = done && fingerprint === wanted;
  const why = !done
    ? status.bootSource === 'jtag'
      ? 'DONE stays low: the boot switch stands at JTAG.'
      : 'DONE stays low.'
    : status.fellBack
      ? 'The update was refused; the golden image booted.'
      : 'Another design booted than was written.';
  return {
    rehearsal: { ...boot.value, sameFingerprint: same },
    problem: same ? null : plainProblem('boot-rehearsal', why, 'Check the boot switch.', 'Write the flash again.'),
  };
}
