import type { ChainSession } from '../board/index.ts';
import type { Bitstream, ConfigStatus } from '../families/index.ts';
import type { Watch } from '../progress.ts';
import { ok, type Result } from '../result.ts';
import { type ReachedFlash, reachFlash, supplyLost } from './flash.ts';
import {
  type BootLook,
  type KeepBlock,
  type KeepOptions,
  type KeepReport,
  lookAtBoot,
  writeBlocks,
} from './keep-blocks.ts';
import { allowed, checkKeep, type KeepCheck, type KeepContext } from './keep-checks.ts';

export interface Keep extends KeepReport {
  readonly chip: string;
  readonly device: number;
  readonly tckCycles: number;
  readonly payloadBits: number;
  readonly bootSource: ConfigStatus['bootSource'];
  /** An image that stood before was written over, by data or by another image. */
  readonly replaced: boolean;
}

/** Blocks for the flash behind one FPGA. */
export interface KeepRequest extends KeepOptions, KeepContext {
  readonly fpga: string;
  readonly device: number | null;
  readonly blocks: readonly KeepBlock[];
}

/** A chip that was met and asked, with what was checked about a request. */
interface KeepReady {
  readonly flash: ReachedFlash;
  readonly look: BootLook;
  readonly checks: readonly KeepCheck[];
}

/** Meets the chip and checks everything. Changes nothing. */
export async function readyToKeep(
  chain: ChainSession,
  { fpga, device, blocks, ...rest }: KeepRequest,
  watch: Watch,
): Promise<Result<KeepReady>> {
  watch.report({ phase: 'Identifying', done: 0, total: 1, unit: 'chip' });
  const reached = await reachFlash(chain, device, fpga);
  if (!reached.ok) return reached;
  const look = await lookAtBoot(reached.value, watch);
  return ok({ flash: reached.value, look, checks: checkKeep(reached.value, blocks, look, rest, rest) });
}

/** Checks, then writes. Nothing is erased unless every check has passed. */
export async function keepBlocks(chain: ChainSession, request: KeepRequest, watch: Watch): Promise<Result<Keep>> {
  const ready = await readyToKeep(chain, request, watch);
  if (!ready.ok) return ready;
  const { flash, look, checks } = ready.value;
  const may = allowed(checks);
  if (!may.ok) return may;
  const written = await writeBlocks(flash, request.blocks, look, request, watch);
  if (!written.ok) return (await supplyLost(chain)) ?? written;
  return ok({
    chip: `${flash.part.maker} ${flash.part.name}`,
    device: flash.device,
    ...written.value,
    ...flash.counts(),
    bootSource: flash.bootSource,
    replaced: checks.some(({ name }) => name === 'replaced'),
  });
}

/** One design alone at address 0: the FPGA copies it from there at every power-on. */
export const keepBitstream = (
  chain: ChainSession,
  { part, stream }: Bitstream,
  device: number | null,
  watch: Watch,
): Promise<Result<Keep>> =>
  keepBlocks(
    chain,
    {
      fpga: part,
      device,
      blocks: [{ name: 'image', role: 'image', address: 0, bytes: stream }],
      stale: [],
      expects: null,
      replaceGolden: false,
    },
    watch,
  );
