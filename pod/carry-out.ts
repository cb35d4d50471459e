import { ChainSession } from '../core/board/index.ts';
import { FAMILIES, readBitstream } from '../core/families/index.ts';
import { describeMismatch, loadBitstream, playSvf } from '../core/operations/index.ts';
import type { PodTarget } from '../core/pod/index.ts';
import type { Watch } from '../core/progress.ts';
import { problem } from './problems.ts';
import { type Problem, settle } from '../core/result.ts';

interface StagedJob {
  readonly what: 'load' | 'svf';
  readonly size: number;
  readonly bytes: AsyncIterable<Uint8Array>;
  readonly device: number | null;
}

/** Carries a staged file out with the pod's own cable: the network is not needed meanwhile. */
export async function carryOutStaged(
  { what, size, bytes, device }: StagedJob,
  { cable, controls = {} }: PodTarget,
  watch: Watch,
  note: (line: string) => void,
): Promise<Problem | null> {
  if (what === 'svf') {
    const played = await playSvf(cable, bytes, watch, { totalBytes: size });
    note(`${played.commands} commands, ${played.tckCycles} TCK cycles`);
    const [first] = played.mismatches;
    return played.problem ?? (first ? describeMismatch(first) : null);
  }
  if (size > MOST_BITSTREAM_BYTES) return problem('stage-no-bitstream', { size });
  const bitstream = readBitstream(await whole(bytes, size));
  if (!bitstream.ok) return bitstream.error;
  const chain = ChainSession.on({ cable, hands: controls, memory: { answers: [], described: [] }, families: FAMILIES });
  const loaded = await settle(() => loadBitstream(chain, bitstream.value, device, watch));
  if (!loaded.ok) return loaded.error;
  const { done, fingerprint, tckCycles } = loaded.value;
  note(`DONE ${done ? 'high' : 'low'}, fingerprint ${fingerprint ?? 'none'}, ${tckCycles} TCK cycles`);
  return loaded.value.problem;
}

/** Far more than any stream; what is longer is no bitstream, and is not taken into memory. */
const MOST_BITSTREAM_BYTES = 256 << 20;

async function whole(pieces: AsyncIterable<Uint8Array>, size: number): Promise<Uint8Array> {
  const bytes = new Uint8Array(size);
  let at = 0;
  for await (const piece of pieces) {
    bytes.set(piece, at);
    at += piece.length;
  }
  return bytes;
}
