import type { ChainSession } from '../board/index.ts';
import { type Bitstream, type ConfigStatus, readNow } from '../families/index.ts';
import type { Watch } from '../progress.ts';
import { ok, type Problem, type Result } from '../result.ts';

/** What became of a load. `fingerprint` is what the part itself says it runs. */
export interface Load {
  readonly done: boolean;
  readonly device: number;
  readonly tckCycles: number;
  readonly payloadBits: number;
  readonly status: ConfigStatus;
  readonly fingerprint: string | null;
  /** 2 when the first attempt failed and was repeated; what it failed of is then in `firstProblem`. */
  readonly attempts: number;
  readonly firstProblem: Problem | null;
  /** Whether the memory was read back and agreed; null when that was not asked for. */
  readonly verified: boolean | null;
  readonly problem: Problem | null;
}

interface LoadOptions {
  readonly verify?: boolean;
}

/** A disturbed cable shows as one of these; loading again does no harm, since nothing runs. */
const WORTH_REPEATING = new Set(['crc-error', 'no-start-word', 'not-cleared', 'done-low']);

/**
 * Loads a design into configuration RAM: it runs until power goes. Fails before the first bit when the part is not
 * there. What a disturbed cable may have caused is tried once more, and said.
 */
export async function loadBitstream(
  chain: ChainSession,
  bitstream: Bitstream,
  device: number | null,
  watch: Watch,
  options: LoadOptions = {},
): Promise<Result<Load>> {
  const part = chain.part(bitstream.part);
  if (!part.ok) return part;
  const { family } = part.value;
  const link = await chain.link(bitstream.part, device);
  if (!link.ok) return link;
  const first = await family.configure(link.value, bitstream, watch);
  const repeated = first.problem !== null && WORTH_REPEATING.has(first.problem.code) && !watch.cancelled();
  const { done, status, counts, problem } = repeated ? await family.configure(link.value, bitstream, watch) : first;
  const fingerprint = done ? await readNow(link.value, family.print) : null;
  const verified = done && options.verify ? await family.verify(link.value, bitstream, watch) : null;
  return ok({
    done,
    device: link.value.index,
    ...counts,
    status,
    fingerprint,
    attempts: repeated ? 2 : 1,
    firstProblem: repeated ? first.problem : null,
    verified: verified === null ? null : verified.ok,
    problem: verified && !verified.ok ? verified.error : problem,
  });
}
