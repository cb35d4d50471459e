import type { ChainSession } from '../board/index.ts';
import { type ConfigStatus, readFingerprint, readStatus } from '../fabric/index.ts';
import { ok, type Result } from '../result.ts';

/** What an FPGA says of itself over JTAG. */
interface BoardState {
  readonly device: number;
  readonly status: ConfigStatus;
  readonly fingerprint: string | null;
}

export async function readBoardState(
  chain: ChainSession,
  part: string,
  device: number | null,
): Promise<Result<BoardState>> {
  const link = await chain.link(part, device);
  if (!link.ok) return link;
  const status = await readStatus(link.value);
  return ok({ device: link.value.index, status, fingerprint: status.done ? await readFingerprint(link.value) : null });
}
