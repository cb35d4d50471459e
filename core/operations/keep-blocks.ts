import type { StreamFacts } from '../families/index.ts';
import {
  affectedRange,
  carryOut,
  eraseBlocks,
  type Piece,
  planWriting,
  readFlash,
  readUniqueId,
  readWatched,
  smallestErase,
  type WritePlan,
  type WriteReport,
  writePieces,
} from '../flash/index.ts';
import type { Watch } from '../progress.ts';
import { ok, type Result } from '../result.ts';
import type { ReachedFlash } from './flash.ts';

/**
 * What a block is to the FPGA: an `image` stands alone at address 0; `golden` stands there too, is what the part falls
 * back to, and is not touched again; an `update` is tried first, as the boot header says; `data` is the design's own
 * business.
 */
export type BlockRole = 'image' | 'golden' | 'update' | 'data';

/** Bytes for the flash, in their place. */
export interface KeepBlock {
  readonly name: string;
  readonly role: BlockRole;
  readonly address: number;
  readonly bytes: Uint8Array;
}

/** What the flash says about booting before anything is written. */
export interface BootLook {
  /** Address of the update that the boot header names; null without a header. */
  readonly update: number | null;
  /** What lies at address 0, read as a stream. */
  readonly golden: StreamFacts;
  /** What was read there: as many whole sectors as a stream of the part takes. */
  readonly first: Uint8Array;
}

export interface KeepOptions {
  /** Write the golden image although another whole one stands in its place. */
  readonly replaceGolden: boolean;
}

export interface KeepReport extends WriteReport {
  /** What became of the golden image, where the blocks have one. */
  readonly golden: 'written' | 'same' | 'left' | null;
  /** The boot header was written anew. */
  readonly headerWritten: boolean;
  /** Fingerprint of what should boot now; null where the blocks hold no image. */
  readonly boots: string | null;
  readonly uniqueId: string | null;
}

/** Reads the boot header and what stands at address 0. */
export async function lookAtBoot(flash: ReachedFlash, watch: Watch): Promise<BootLook> {
  const { boot, through } = flash;
  const { stream } = through.family;
  const header = await readFlash(flash.port, boot.headerAddress(flash.part.bytes), boot.headerBytes);
  const { length } = affectedRange(flash.part, boot.golden, stream.bytes(through));
  const first = await readWatched(
    flash.port,
    boot.golden,
    Math.min(flash.part.bytes, length),
    'Reading what boots',
    watch,
  );
  return { update: boot.readHeader(header), golden: stream.facts(first), first };
}

/** What writing blocks would do to the flash, as far as it can be told before. Changes nothing. */
export async function planBlocks(
  flash: ReachedFlash,
  blocks: readonly KeepBlock[],
  look: BootLook,
  options: KeepOptions,
  watch: Watch,
): Promise<Result<WritePlan>> {
  const { before, update, header } = stepsOf(flash, blocks, look, options);
  return planWriting(flash.port, flash.part, [...before, ...update, ...(header ? [header] : [])], watch, {
    address: flash.boot.golden,
    bytes: look.first,
  });
}

/**
 * Writes blocks so that a board which loses power at any moment still boots. A golden image that stands is not touched.
 * The boot header is taken away before the update changes and written when all else is verified, so a part never tries
 * half an update.
 */
export async function writeBlocks(
  flash: ReachedFlash,
  blocks: readonly KeepBlock[],
  look: BootLook,
  options: KeepOptions,
  watch: Watch,
): Promise<Result<KeepReport>> {
  const { port, part, boot } = flash;
  const uniqueId = await readUniqueId(port);
  const { before, update, header, golden } = stepsOf(flash, blocks, look, options);
  const plans: WritePlan[] = [];
  for (const pieces of [before, update]) {
    const plan = await planWriting(port, part, pieces, watch, { address: boot.golden, bytes: look.first });
    if (!plan.ok) return plan;
    plans.push(plan.value);
  }
  const [beforePlan, updatePlan] = plans as [WritePlan, WritePlan];
  const done: WriteReport[] = [];
  const headerAddress = boot.headerAddress(part.bytes);
  const imageAlone = update.length === 0 && blocks.some(({ role }) => role === 'image');
  if (look.update !== null && (imageAlone || changes(updatePlan))) {
    const erased = await eraseBlocks(port, [{ address: headerAddress, type: smallestErase(part) }], watch);
    if (!erased.ok) return erased;
    done.push({ sectorsErased: 1, pagesWritten: 0, sectorsKept: 0, verified: true });
  }
  for (const [plan, pieces] of [
    [beforePlan, before],
    [updatePlan, update],
  ] as const) {
    const written = await carryOut(port, part, plan, pieces, watch);
    if (!written.ok) return written;
    done.push(written.value);
  }
  const headed = header ? await writePieces(port, part, [header], watch) : null;
  if (headed && !headed.ok) return headed;
  if (headed) done.push(headed.value);
  const sum = (of: (report: WriteReport) => number) => done.reduce((total, report) => total + of(report), 0);
  return ok({
    sectorsErased: sum((one) => one.sectorsErased),
    pagesWritten: sum((one) => one.pagesWritten),
    sectorsKept: sum((one) => one.sectorsKept),
    verified: true,
    golden,
    headerWritten: (headed?.value.pagesWritten ?? 0) > 0,
    boots: bootsFrom(flash, blocks, look, golden),
    uniqueId,
  });
}

const changes = ({ erases, pages }: WritePlan): boolean => erases.length + pages.length > 0;

/** In the order of writing: what goes before the update, the update, its header. */
function stepsOf(flash: ReachedFlash, blocks: readonly KeepBlock[], look: BootLook, { replaceGolden }: KeepOptions) {
  const { boot } = flash;
  const golden = blocks.find(({ role }) => role === 'golden');
  const update = blocks.find(({ role }) => role === 'update');
  const goldenIs: KeepReport['golden'] = !golden
    ? null
    : golden.bytes.every((byte, i) => byte === look.first[i])
      ? 'same'
      : look.golden.isWhole && !replaceGolden
        ? 'left'
        : 'written';
  const before: Piece[] = blocks.filter(
    (block) => block.role === 'image' || block.role === 'data' || (block === golden && goldenIs === 'written'),
  );
  return {
    before,
    update: update ? [update] : [],
    header: update ? { address: boot.headerAddress(flash.part.bytes), bytes: boot.writeHeader(update.address) } : null,
    golden: goldenIs,
  };
}

function bootsFrom(
  { through }: ReachedFlash,
  blocks: readonly KeepBlock[],
  look: BootLook,
  golden: KeepReport['golden'],
): string | null {
  const wanted =
    blocks.find(({ role }) => role === 'update') ??
    blocks.find(({ role }) => role === 'image') ??
    (golden === 'left' ? undefined : blocks.find(({ role }) => role === 'golden'));
  return wanted
    ? through.family.stream.facts(wanted.bytes).fingerprint
    : golden === 'left'
      ? look.golden.fingerprint
      : null;
}
