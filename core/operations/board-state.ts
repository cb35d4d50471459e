import { type ConfigStatus, readFingerprint, readStatus } from '../fabric/index.ts';
import type { Cable } from '../jtag/index.ts';
import { ok, type Result } from '../result.ts';
import { linkTo } from './scan.ts';

/** What an FPGA says of itself over JTAG. */
interface BoardState {
  readonly device: number;
  readonly status: ConfigStatus;
  readonly fingerprint: string | null;
}

export async function readBoardState(cable: Cable, part: string, device: number | null): Promise<Result<BoardState>> {
  const link = await linkTo(cable, part, device);
  if (!link.ok) return link;
  const status = await readStatus(link.value);
  return ok({ device: link.value.index, status, fingerprint: status.done ? await readFingerprint(link.value) : null });
}
