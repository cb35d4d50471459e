import type { ChainSession } from '../board/index.ts';
import { type ConfigStatus, readNow } from '../families/index.ts';
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
  const known = chain.part(part);
  if (!known.ok) return known;
  const { family } = known.value;
  const link = await chain.link(part, device);
  if (!link.ok) return link;
  const status = await readNow(link.value, family.status);
  const fingerprint = status.done ? await readNow(link.value, family.print) : null;
  return ok({ device: link.value.index, status, fingerprint });
}
