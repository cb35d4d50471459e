import { type Bitstream, configure, type ConfigStatus, readFingerprint } from '../fabric/index.ts';
import type { Cable } from '../jtag/index.ts';
import type { Watch } from '../progress.ts';
import { fail, ok, type Problem, type Result } from '../result.ts';
import { linkTo } from './scan.ts';

/** What became of a load. `fingerprint` is what the part itself says it runs. */
export interface Load {
  readonly done: boolean;
  readonly device: number;
  readonly tckCycles: number;
  readonly payloadBits: number;
  readonly status: ConfigStatus;
  readonly fingerprint: string | null;
  readonly problem: Problem | null;
}

/** Loads a design into configuration RAM: it runs until power goes. Fails before the first bit when the part is not there. */
export async function loadBitstream(cable: Cable, bitstream: Bitstream, device: number | null, watch: Watch): Promise<Result<Load>> {
  const link = await linkTo(cable, bitstream.part, device);
  if (!link.ok) return fail(link.error);
  const { done, status, counts, problem } = await configure(link.value, bitstream, watch);
  const fingerprint = done ? await readFingerprint(link.value) : null;
  return ok({ done, device: link.value.index, ...counts, status, fingerprint, problem });
}
