import type { ChainSession } from '../board/index.ts';
import {
  type Bitstream,
  configure,
  type ConfigStatus,
  partNamed,
  readFingerprint,
  verifyConfiguration,
} from '../fabric/index.ts';
import type { Watch } from '../progress.ts';
import { fail, ok, type Problem, type Result } from '../result.ts';

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
  const link = await chain.link(bitstream.part, device);
  if (!link.ok) return fail(link.error);
  const first = await configure(link.value, bitstream, watch);
  const repeated = first.problem !== null && WORTH_REPEATING.has(first.problem.code) && !watch.cancelled();
  const { done, status, counts, problem } = repeated ? await configure(link.value, bitstream, watch) : first;
  const fingerprint = done ? await readFingerprint(link.value) : null;
  const part = partNamed(bitstream.part);
  const verified =
    done && options.verify && part ? await verifyConfiguration(link.value, part, bitstream.stream, watch) : null;
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
