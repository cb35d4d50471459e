import type { ChainSession } from '../board/index.ts';
import { type DebugAccess, readLater } from '../families/index.ts';
import type { ChainLink } from '../jtag/index.ts';
import { HubClient, type ProbeMap } from '../probes/index.ts';
import { fail, ok, type Problem, type Result } from '../result.ts';
import { problem } from './problems.ts';

/** Whether the design that runs has debug cores, and which build's; null when it has none. Needs no map of them. */
export async function askHub(
  chain: ChainSession,
  part: string,
  device: number | null,
): Promise<Result<{ readonly fingerprint: string; readonly cores: number } | null>> {
  const access = chain.debug(part);
  if (!access.ok) return access;
  const link = await chain.link(part, device);
  if (!link.ok) return link;
  const found = await hubOf(link.value, access.value).identify();
  if (!found.ok) return found.error.code === 'no-hub' ? ok(null) : found;
  return ok(found.value);
}

/** A hub that was asked for its fingerprint and is the one the map was made for. */
export async function openHub(
  chain: ChainSession,
  part: string,
  device: number | null,
  map: ProbeMap,
): Promise<Result<HubClient>> {
  const access = chain.debug(part);
  if (!access.ok) return access;
  const link = await chain.link(part, device);
  if (!link.ok) return link;
  const { runs, hub, identity } = askThrough(link.value, access.value);
  await hub.flush();
  const found = await identity;
  if (!found.ok && found.error.code === 'no-hub' && access.value.isNamed && (await runs) !== false)
    return fail(await whySilent(link.value, access.value, part));
  const right = isMeant(await runs, found, map);
  return right.ok ? ok(hub) : right;
}

/**
 * The same for reading alone: what `ask` queues goes out together with a look at the chain, the status and the hub's
 * fingerprint, in one batch. Null where the chain has to be scanned first, or is another one by now.
 */
export async function readThroughHub<T>(
  chain: ChainSession,
  part: string,
  device: number | null,
  map: ProbeMap,
  ask: (hub: HubClient) => Promise<T>,
): Promise<Result<T> | null> {
  const access = chain.debug(part);
  if (!access.ok) return access;
  const opened = chain.linkToRead(part, device);
  if (!opened) return null;
  const { runs, hub, identity } = askThrough(opened.link, access.value);
  const asked = ask(hub);
  // Where the cable is lost, the flush below says so; nobody is left to hear it a second time.
  asked.catch(() => {});
  await hub.flush();
  if (!(await opened.same)) {
    await asked.catch(() => null);
    return null;
  }
  const right = isMeant(await runs, await identity, map);
  return right.ok ? ok(await asked) : right;
}

/** A hub that does not answer on a part whose register a person has named: it may answer a few bits earlier or later. */
async function whySilent(link: ChainLink, { opcode, late }: DebugAccess, part: string): Promise<Problem> {
  for (let other = 0; other <= MOST_PREFIX; other++) {
    if (other === late) continue;
    if ((await new HubClient(link, opcode, other).identify()).ok)
      return problem('no-hub (prefix)', { part, said: late, answers: other });
  }
  return problem('no-hub (foreign)', { part });
}

/** Common practice: parts put none or a bit or two before a user register; more are tried for a chain misread. */
const MOST_PREFIX = 8;

/** Queues what tells whether the design is the meant one. */
function askThrough(link: ChainLink, access: DebugAccess) {
  const runs = access.runs ? readLater(link, access.runs) : Promise.resolve(null);
  const hub = hubOf(link, access);
  return { runs, hub, identity: hub.identifyLater() };
}

const hubOf = (link: ChainLink, { opcode, late }: DebugAccess): HubClient => new HubClient(link, opcode, late);

function isMeant(
  /** Null where the part does not tell. */
  runs: boolean | null,
  found: Awaited<ReturnType<HubClient['identifyLater']>>,
  map: ProbeMap,
): Result<null> {
  if (runs === false) return fail(problem('done-low'));
  if (!found.ok) return found;
  if (found.value.fingerprint !== map.fingerprint)
    return fail(
      problem('fingerprint-differs', {
        runs: found.value.fingerprint.slice(0, 8),
        wanted: map.fingerprint.slice(0, 8),
      }),
    );
  return ok(null);
}
