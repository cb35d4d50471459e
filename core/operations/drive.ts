import type { ChainSession } from '../board/index.ts';
import { PanelClient, type PanelMap, type PanelReading, type ProbeMap } from '../probes/index.ts';
import { fail, ok, type Result } from '../result.ts';
import { problem } from './problems.ts';
import type { HeldLever } from '../wave/index.ts';
import { openHub } from './debug-link.ts';

export interface Driven {
  /** Names of the panels, joined by commas. */
  readonly panel: string;
  /** Of all panels; each is one coherent look by itself. */
  readonly reading: PanelReading;
  readonly tckCycles: number;
}

/**
 * Moves levers, if any are named, and reads levers and gauges of all panels back from the hardware. `null` releases an
 * override.
 */
export async function drive(
  chain: ChainSession,
  request: {
    part: string;
    device: number | null;
    map: ProbeMap;
    set: Readonly<Record<string, bigint | null>>;
    /** For so many cycles of the panel's clock alone; null for good. */
    cycles?: number | null;
  },
): Promise<Result<Driven>> {
  const panels = request.map.cores.filter((core): core is PanelMap => core.kind === 'panel');
  if (panels.length === 0) return fail(problem('no-panel'));
  const levers = panels.flatMap((panel) => panel.levers.map(({ name }) => name));
  const unknown = Object.keys(request.set).find((name) => !levers.includes(name));
  if (unknown !== undefined) return fail(problem('no-lever', { unknown, levers: levers.join(', ') || 'none' }));
  const hub = await openHub(chain, request.part, request.device, request.map);
  if (!hub.ok) return hub;
  let reading: PanelReading = { gauges: {}, levers: {} };
  for (const panel of panels) {
    const client = new PanelClient(hub.value, panel);
    const own = Object.fromEntries(
      Object.entries(request.set).filter(([name]) => panel.levers.some((lever) => lever.name === name)),
    );
    if (Object.keys(own).length > 0) {
      const set = await client.set(own, request.cycles ?? null);
      if (!set.ok) return set;
    }
    const read = await client.read();
    if (!read.ok) return read;
    const activity = { ...reading.activity, ...read.value.activity };
    reading = {
      ...(Object.keys(activity).length > 0 ? { activity } : {}),
      gauges: { ...reading.gauges, ...read.value.gauges },
      levers: { ...reading.levers, ...read.value.levers },
    };
  }
  return ok({ panel: panels.map(({ name }) => name).join(', '), reading, tckCycles: hub.value.queue.counts.tckCycles });
}

/** Levers that give a signal its value now, on any panel; none where the build has no levers. */
export async function leversInForce(
  chain: ChainSession,
  { part, device, map }: { part: string; device: number | null; map: ProbeMap },
): Promise<Result<readonly HeldLever[]>> {
  const levers = new Map(
    map.cores.flatMap((core) => (core.kind === 'panel' ? core.levers : [])).map((lever) => [lever.name, lever]),
  );
  if (levers.size === 0) return ok([]);
  const read = await drive(chain, { part, device, map, set: {} });
  if (!read.ok) return read;
  return ok(
    Object.entries(read.value.reading.levers).flatMap(([signal, { value, released }]) =>
      released ? [] : [{ signal, value: String(value), overrides: levers.get(signal)?.enable !== null }],
    ),
  );
}
