import { type ConfigStatus, PARTS, readStatus, SpiOverJtag } from '../fabric/index.ts';
import { affectedRange, eraseBlocks, type FlashIdentity, joinErases, meet, planWrite, readWatched, smallestErase, verify, type WritePlan, writeFlash, type WriteReport } from '../flash/index.ts';
import { type Cable, ChainLink, type ScanCounts, ScanQueue } from '../jtag/index.ts';
import type { Watch } from '../progress.ts';
import { fail, ok, type Problem, problem, type Result } from '../result.ts';
import { linkTo, scanChain } from './scan.ts';

/** A flash chip that was reached through an FPGA of the chain. */
export interface ReachedFlash extends FlashIdentity {
  /** Place of the FPGA in the chain. */
  readonly device: number;
  /** Where the FPGA looks at power-on. */
  readonly bootSource: ConfigStatus['bootSource'];
  readonly port: SpiOverJtag;
  readonly counts: () => ScanCounts;
}

/** The flash behind an FPGA: of the one named, else of the first that has one which answers. With a part, only that part will do. */
export async function reachFlash(cable: Cable, device: number | null, part: string | null = null): Promise<Result<ReachedFlash>> {
  if (part !== null) {
    const link = await linkTo(cable, part, device);
    return link.ok ? metThrough(link.value) : link;
  }
  const scan = await scanChain(cable);
  const [trouble] = scan.problems;
  if (trouble) return fail(trouble);
  const lengths = scan.devices.map(({ irLength }) => irLength);
  if (lengths.includes(null)) return fail(problem('ir-unknown', 'The chain holds a device whose instruction length is not known.', 'Read its BSDL file.'));
  const places = scan.devices.filter((one) => (device === null || one.index === device) && PARTS.some((part) => one.candidates.includes(part.name)));
  let last: Problem | null = null;
  for (const { index } of places) {
    const queue = new ScanQueue(cable);
    queue.reset();
    const met = await metThrough(new ChainLink(queue, lengths as number[], index));
    if (met.ok) return met;
    if (!last || last.code === 'flash-silent') last = met.error;
  }
  return fail(last ?? problem('no-device', device === null ? 'No device of the chain can reach a flash.' : `Device ${device} cannot reach a flash.`, 'Name the place of an FPGA, counted from 0 at TDO.'));
}

async function metThrough(link: ChainLink): Promise<Result<ReachedFlash>> {
  const { bootSource } = await readStatus(link);
  const port = new SpiOverJtag(link);
  const met = await meet(port);
  return met.ok ? ok({ ...met.value, device: link.index, bootSource, port, counts: () => link.queue.counts }) : met;
}

const notProtected = (flash: ReachedFlash): Result<ReachedFlash> =>
  flash.isProtected ? fail(problem('flash-protected', 'The flash is protected against writing: its block protection bits are set. Nothing was erased.', 'Check the write-protect pin of the chip.', 'Take the protection off, where it is meant to be off.')) : ok(flash);

/** What writing would erase, keep and program, after reading what is there. Changes nothing. */
export async function planFlash(flash: ReachedFlash, address: number, image: Uint8Array, watch: Watch): Promise<Result<WritePlan>> {
  if (address < 0 || address + image.length > flash.part.bytes) return fail(tooLarge(flash, address + image.length));
  const range = affectedRange(flash.part, address, image.length);
  return ok(planWrite(flash.part, address, image, await readWatched(flash.port, range.start, range.length, 'Comparing', watch)));
}

export async function writeToFlash(flash: ReachedFlash, address: number, image: Uint8Array, watch: Watch): Promise<Result<WriteReport>> {
  const open = notProtected(flash);
  return open.ok ? writeFlash(flash.port, flash.part, address, image, watch) : open;
}

/** Erases whole sectors; a stretch that begins or ends inside one is refused, so that nothing else is lost. */
export async function eraseFlash(flash: ReachedFlash, address: number, length: number, watch: Watch): Promise<Result<{ readonly sectorsErased: number }>> {
  const open = notProtected(flash);
  if (!open.ok) return open;
  const { bytes } = smallestErase(flash.part);
  if (address < 0 || address + length > flash.part.bytes) return fail(tooLarge(flash, address + length));
  if (address % bytes !== 0 || length % bytes !== 0) return fail(problem('flash-alignment', `This stretch begins or ends inside a sector of ${bytes / 1024} KiB; what else the sector holds would be lost. Nothing was erased.`, `Choose multiples of 0x${bytes.toString(16).toUpperCase()}.`));
  const sectors = Array.from({ length: length / bytes }, (_, i) => address + i * bytes);
  const erased = await eraseBlocks(flash.port, joinErases(flash.part, sectors, bytes), watch);
  return erased.ok ? ok({ sectorsErased: erased.value }) : erased;
}

/** The first byte that is not FF; null when all are. */
export async function blankCheck(flash: ReachedFlash, address: number, length: number, watch: Watch): Promise<number | null> {
  const bytes = await readWatched(flash.port, address, length, 'Blank check', watch);
  const at = bytes.findIndex((byte) => byte !== 0xff);
  return at < 0 ? null : address + at;
}

export const readFromFlash = (flash: ReachedFlash, address: number, length: number, watch: Watch): Promise<Uint8Array> => readWatched(flash.port, address, length, 'Reading', watch);

export const verifyFlash = (flash: ReachedFlash, address: number, image: Uint8Array, watch: Watch): Promise<Result<null>> => verify(flash.port, address, image, watch);

const tooLarge = ({ part }: ReachedFlash, end: number): Problem => problem('flash-too-large', `This ends at 0x${end.toString(16).toUpperCase()}, the chip at 0x${part.bytes.toString(16).toUpperCase()}. Nothing was erased.`, 'Choose a smaller stretch or image.');
