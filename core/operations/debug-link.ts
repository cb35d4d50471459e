import { readStatus } from '../fabric/index.ts';
import type { Cable } from '../jtag/index.ts';
import { HubClient, type ProbeMap } from '../probes/index.ts';
import { fail, ok, problem, type Result } from '../result.ts';
import { linkTo } from './scan.ts';

/** Whether the design that runs has debug cores, and which build's; null when it has none. Needs no map of them. */
export async function askHub(
  cable: Cable,
  part: string,
  device: number | null,
): Promise<Result<{ readonly fingerprint: string; readonly cores: number } | null>> {
  const link = await linkTo(cable, part, device);
  if (!link.ok) return link;
  const found = await new HubClient(link.value).identify();
  if (!found.ok) return found.error.code === 'no-hub' ? ok(null) : found;
  return ok(found.value);
}

/** A hub that was asked for its fingerprint and is the one the map was made for. */
export async function openHub(
  cable: Cable,
  part: string,
  device: number | null,
  map: ProbeMap,
): Promise<Result<HubClient>> {
  const link = await linkTo(cable, part, device);
  if (!link.ok) return link;
  const status = await readStatus(link.value);
  if (!status.done)
    return fail(problem('done-low', 'The FPGA is empty: DONE is low.', 'Load the build that holds the probes.'));
  const hub = new HubClient(link.value);
  const found = await hub.identify();
  if (!found.ok) return found;
  if (found.value.fingerprint !== map.fingerprint)
    return fail(
      problem(
        'fingerprint-differs',
        `The design that runs is build ${found.value.fingerprint.slice(0, 8)}, the probes belong to build ${map.fingerprint.slice(0, 8)}.`,
        'Load the current build.',
      ),
    );
  return ok(hub);
}
