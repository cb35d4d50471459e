import { ChainSession } from '../core/board/index.ts';
import { FAMILIES, readBitstream } from '../core/families/index.ts';
import { describeMismatch, loadBitstream, playSvf } from '../core/operations/index.ts';
import type { PodTarget } from '../core/pod/index.ts';
import type { Watch } from '../core/progress.ts';
import { type Problem, settle } from '../core/result.ts';

interface StagedJob {
  readonly what: 'load' | 'svf';
  readonly bytes: Uint8Array;
  readonly device: number | null;
}

/** Carries a staged file out with the pod's own cable: the network is not needed meanwhile. */
export async function carryOutStaged(
  { what, bytes, device }: StagedJob,
  { cable, controls = {} }: PodTarget,
  watch: Watch,
  note: (line: string) => void,
): Promise<Problem | null> {
  if (what === 'svf') {
    const played = await playSvf(cable, pieces(bytes), watch, { totalBytes: bytes.length });
    note(`${played.commands} commands, ${played.tckCycles} TCK cycles`);
    const [first] = played.mismatches;
    return played.problem ?? (first ? describeMismatch(first) : null);
  }
  const bitstream = readBitstream(bytes);
  if (!bitstream.ok) return bitstream.error;
  const chain = ChainSession.on({ cable, hands: controls, memory: { answers: [], described: [] }, families: FAMILIES });
  const loaded = await settle(() => loadBitstream(chain, bitstream.value, device, watch));
  if (!loaded.ok) return loaded.error;
  const { done, fingerprint, tckCycles, problem } = loaded.value;
  note(`DONE ${done ? 'high' : 'low'}, fingerprint ${fingerprint ?? 'none'}, ${tckCycles} TCK cycles`);
  return problem;
}

const PIECE_BYTES = 1 << 16;

function* pieces(bytes: Uint8Array): Iterable<Uint8Array> {
  for (let at = 0; at < bytes.length; at += PIECE_BYTES) yield bytes.subarray(at, at + PIECE_BYTES);
}
