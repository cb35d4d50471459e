import { type ChainSession, isPowered } from '../board/index.ts';
import { crc32 } from '../bits/index.ts';
import { type BootLayout, type ConfigStatus, type Part, partsOf, readNow } from '../families/index.ts';
import {
  eraseBlocks,
  type FlashIdentity,
  joinErases,
  meet,
  type Piece,
  type SpiPort,
  readWatched,
  smallestErase,
  verifyPieces,
  writePieces,
  type WriteReport,
} from '../flash/index.ts';
import { ChainLink, type ScanCounts, ScanQueue } from '../jtag/index.ts';
import { BridgeClient, type ProbeMap } from '../probes/index.ts';
import type { Watch } from '../progress.ts';
import { fail, ok, type Problem, type Result, problem as plainProblem } from '../result.ts';
import { openHub } from './debug-link.ts';
import { problem } from './problems.ts';

/** A flash chip that was reached, whatever lies behind it. */
export interface BareFlash extends FlashIdentity {
  /** Place in the chain of the FPGA that passes its pins on. */
  readonly device: number;
  readonly port: SpiPort;
  readonly counts: () => ScanCounts;
}

/** One that was reached through an FPGA of the chain by the part's own way, and that it boots from. */
export interface ReachedFlash extends BareFlash {
  /** Where the FPGA looks at power-on. */
  readonly bootSource: ConfigStatus['bootSource'];
  /** The FPGA that passes the flash's pins on. */
  readonly through: Part;
  readonly boot: BootLayout;
}

/**
 * The flash behind an FPGA: of the one named, else of the first that has one which answers. With a part, only that part
 * will do.
 */
export async function reachFlash(
  chain: ChainSession,
  device: number | null,
  part: string | null = null,
): Promise<Result<ReachedFlash>> {
  if (part !== null) {
    const known = chain.part(part);
    if (!known.ok) return known;
    const link = await chain.link(part, device);
    return link.ok ? metThrough(link.value, known.value) : link;
  }
  const scan = await chain.current();
  const [trouble] = scan.problems;
  if (trouble) return fail(trouble);
  const lengths = scan.devices.map(({ irLength }) => irLength);
  if (lengths.includes(null)) return fail(problem('ir-unknown'));
  const places = scan.devices.flatMap(({ index, candidates }) => {
    const may = partsOf(chain.families).filter(({ name }) => candidates.includes(name));
    // Asking some parts for their flash stops their design: those only when they are named.
    const isWanted = device === null ? may.every(({ flashStopsDesign }) => !flashStopsDesign) : index === device;
    const [through] = may;
    return through && isWanted ? [{ index, through }] : [];
  });
  let last: Problem | null = null;
  for (const { index, through } of places) {
    const queue = new ScanQueue(chain.cable);
    queue.reset();
    const met = await metThrough(new ChainLink(queue, lengths as number[], index), through);
    if (met.ok) return met;
    if (!last || last.code === 'flash-silent') last = met.error;
  }
  return fail(
    last ??
      plainProblem(
        'no-device',
        device === null ? 'No device of the chain can reach a flash.' : `Device ${device} cannot reach a flash.`,
        'Name the place of an FPGA, counted from 0 at TDO.',
      ),
  );
}

async function metThrough(link: ChainLink, through: Part): Promise<Result<ReachedFlash>> {
  const { bootSource } = await readNow(link, through.family.status);
  const { flash } = through.family;
  if (!flash) return fail(problem('no-flash', { name: through.name }));
  const port = flash.port(link);
  const met = await meet(port);
  const counts = () => link.queue.counts;
  return met.ok ? ok({ ...met.value, device: link.index, bootSource, port, through, boot: flash.boot, counts }) : met;
}

/**
 * The flash on four pins of a fabric, through the bridge core in the design that runs there: of any part whose user
 * register is known.
 */
export async function reachThroughBridge(
  chain: ChainSession,
  { part, device, map }: { readonly part: string; readonly device: number | null; readonly map: ProbeMap },
): Promise<Result<BareFlash>> {
  const bridge = map.cores.find((core) => core.kind === 'bridge');
  if (bridge?.kind !== 'bridge') return fail(problem('no-bridge'));
  const hub = await openHub(chain, part, device, map);
  if (!hub.ok) return hub;
  const port = new BridgeClient(hub.value, bridge);
  const known = await port.isKnown();
  if (!known.ok) return known;
  const met = await meet(port);
  const counts = () => hub.value.queue.counts;
  return met.ok ? ok({ ...met.value, device: hub.value.device, port, counts }) : met;
}

const notProtected = (flash: BareFlash): Result<BareFlash> =>
  flash.isProtected ? fail(problem('flash-protected')) : ok(flash);

/** Only what differs: erased, programmed, verified. */
export async function writeToFlash(
  flash: BareFlash,
  pieces: readonly Piece[],
  watch: Watch,
): Promise<Result<WriteReport>> {
  const open = notProtected(flash);
  return open.ok ? writePieces(flash.port, flash.part, pieces, watch) : open;
}

/** Fills a stretch with one byte. */
export async function fillFlash(
  flash: BareFlash,
  address: number,
  length: number,
  byte: number,
  watch: Watch,
): Promise<Result<WriteReport>> {
  const inside = within(flash, address, length);
  return inside.ok ? writeToFlash(flash, [{ address, bytes: new Uint8Array(length).fill(byte) }], watch) : inside;
}

/** Erases whole sectors; a stretch that begins or ends inside one is refused, so that nothing else is lost. */
export async function eraseFlash(
  flash: BareFlash,
  address: number,
  length: number,
  watch: Watch,
): Promise<Result<{ readonly sectorsErased: number }>> {
  const open = notProtected(flash);
  if (!open.ok) return open;
  const { bytes } = smallestErase(flash.part);
  const inside = within(flash, address, length);
  if (!inside.ok) return inside;
  if (address % bytes !== 0 || length % bytes !== 0)
    return fail(problem('flash-alignment', { kibibytes: bytes / 1024, multiple: bytes.toString(16).toUpperCase() }));
  const sectors = Array.from({ length: length / bytes }, (_, i) => address + i * bytes);
  const erased = await eraseBlocks(flash.port, joinErases(flash.part, sectors, bytes), watch);
  return erased.ok ? ok({ sectorsErased: erased.value }) : erased;
}

/** The first byte that is not FF; null when all are. */
export async function blankCheck(
  flash: BareFlash,
  address: number,
  length: number,
  watch: Watch,
): Promise<Result<number | null>> {
  const read = await readFromFlash(flash, address, length, watch, 'Blank check');
  if (!read.ok) return read;
  const at = read.value.findIndex((byte) => byte !== 0xff);
  return ok(at < 0 ? null : address + at);
}

export async function readFromFlash(
  flash: BareFlash,
  address: number,
  length: number,
  watch: Watch,
  phase = 'Reading',
): Promise<Result<Uint8Array>> {
  const inside = within(flash, address, length);
  return inside.ok ? ok(await readWatched(flash.port, address, length, phase, watch)) : inside;
}

/** CRC-32/ISO-HDLC of a stretch, eight lower-case digits. */
export async function crcOfFlash(
  flash: BareFlash,
  address: number,
  length: number,
  watch: Watch,
): Promise<Result<string>> {
  const read = await readFromFlash(flash, address, length, watch, 'CRC');
  return read.ok ? ok(crc32(read.value).toString(16).padStart(8, '0')) : read;
}

export const verifyFlash = (flash: BareFlash, pieces: readonly Piece[], watch: Watch): Promise<Result<null>> =>
  verifyPieces(flash.port, pieces, watch);

/** After trouble: whether the board lost its supply, which explains whatever else was seen. */
export async function supplyLost(chain: ChainSession): Promise<Result<never> | null> {
  const state = await chain.cable.state();
  if (!state.attached || isPowered(state) !== false) return null;
  return fail(problem('power-lost', { referenceVolts: (state.referenceVolts ?? 0).toFixed(1) }));
}

function within({ part }: BareFlash, address: number, length: number): Result<null> {
  if (length < 1) return fail(problem('flash-stretch'));
  if (address >= 0 && address + length <= part.bytes) return ok(null);
  const hex = (value: number) => `0x${value.toString(16).toUpperCase()}`;
  return fail(problem('flash-too-large', { address: hex(address + length), bytes: hex(part.bytes) }));
}
