import type { ChainSession } from '../board/index.ts';
import { type ConfigStatus, readNow } from '../families/index.ts';
import { ok, type Result } from '../result.ts';
import { askHub } from './debug-link.ts';

/** What an FPGA says of itself over JTAG. */
interface BoardState {
  readonly device: number;
  /** Whether a design runs; null where the part does not tell. */
  readonly done: boolean | null;
  /** Null for a part whose configuration only its own tools know. */
  readonly status: ConfigStatus | null;
  readonly fingerprint: string | null;
}

export async function readBoardState(
  chain: ChainSession,
  part: string,
  device: number | null,
): Promise<Result<BoardState>> {
  const known = chain.part(part);
  if (!known.ok) return readByHub(chain, part, device);
  const { family } = known.value;
  const link = await chain.link(part, device);
  if (!link.ok) return link;
  const status = await readNow(link.value, family.status);
  const fingerprint = status.done ? await readNow(link.value, family.print) : null;
  return ok({ device: link.value.index, done: status.done, status, fingerprint });
}

/** Of a part that others' tools build for: whether its design runs, where it tells, and which one, by the hub of its debug cores. */
async function readByHub(chain: ChainSession, part: string, device: number | null): Promise<Result<BoardState>> {
  const access = chain.debug(part);
  if (!access.ok) return access;
  const link = await chain.link(part, device);
  if (!link.ok) return link;
  const { runs } = access.value;
  const told = runs ? await readNow(link.value, runs) : null;
  const hub = told === false ? null : await askHub(chain, part, device);
  if (hub && !hub.ok) return hub;
  const fingerprint = hub?.value?.fingerprint ?? null;
  return ok({ device: link.value.index, done: fingerprint === null ? told : true, status: null, fingerprint });
}
