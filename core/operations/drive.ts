import type { Cable } from '../jtag/index.ts';
import { PanelClient, type PanelMap, type PanelReading, type ProbeMap } from '../probes/index.ts';
import { fail, ok, problem, type Result } from '../result.ts';
import { openHub } from './debug-link.ts';

export interface Driven {
  readonly panel: string;
  readonly reading: PanelReading;
  readonly tckCycles: number;
}

/** Moves levers, if any are named, and reads levers and gauges back from the hardware. `null` releases an override. */
export async function drive(cable: Cable, request: { part: string; device: number | null; map: ProbeMap; set: Readonly<Record<string, bigint | null>> }): Promise<Result<Driven>> {
  const map = request.map.cores.find((core): core is PanelMap => core.kind === 'panel');
  if (!map) return fail(problem('no-panel', 'This build has no panel.', 'Add levers or gauges under Probe, build and load.'));
  const unknown = Object.keys(request.set).find((name) => !map.levers.some((lever) => lever.name === name));
  if (unknown !== undefined) return fail(problem('no-lever', `The panel has no lever on "${unknown}".`, `It has ${map.levers.map((l) => l.name).join(', ') || 'none'}.`));
  const hub = await openHub(cable, request.part, request.device, request.map);
  if (!hub.ok) return hub;
  const client = new PanelClient(hub.value, map);
  if (Object.keys(request.set).length > 0) {
    const set = await client.set(request.set);
    if (!set.ok) return set;
  }
  const reading = await client.read();
  if (!reading.ok) return reading;
  return ok({ panel: map.name, reading: reading.value, tckCycles: hub.value.queue.counts.tckCycles });
}
