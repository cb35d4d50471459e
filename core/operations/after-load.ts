import type { ChainSession } from '../board/index.ts';
import { type BoundaryMap, BoundaryScan, type ScannedDevice } from '../boundary/index.ts';
import { ScanQueue } from '../jtag/index.ts';
import type { ProbeMap } from '../probes/index.ts';
import { askHub, openHub } from './debug-link.ts';

/** What was looked at once a design runs. */
export interface AfterLoad {
  /**
   * Debug cores that answer; `none` when the design has none, which is nothing to worry about; `unmapped` when it has
   * some, but nothing here says what they are connected to.
   */
  readonly cores:
    | { readonly kind: 'unmapped'; readonly count: number; readonly fingerprint: string }
    | { readonly kind: 'found'; readonly names: readonly string[] }
    | { readonly kind: 'none' }
    | { readonly kind: 'silent'; readonly why: string };
  /** Whether both levels were seen at each clock pin. */
  readonly clocks: readonly { readonly port: string; readonly pin: string; readonly ticks: boolean }[];
}

const LOOKS = 48;
/** Idle cycles between looks, 0 to one less. */
const UNEVEN_CLOCKS = 11;
const OTHER_TCK = 0.83;

/** Asks the hub of the debug cores who is there, and watches the clock pins by SAMPLE, which disturbs nothing. */
export async function lookAfterLoad(
  chain: ChainSession,
  part: string,
  device: number,
  map: ProbeMap | null,
  devices: readonly ScannedDevice[],
  clocks: readonly { readonly port: string; readonly pin: string }[],
): Promise<AfterLoad> {
  const ticking = await watchPins(chain, device, devices, clocks);
  if (!map || map.cores.length === 0) {
    const asked = await askHub(chain, part, device);
    if (!asked.ok) return { cores: { kind: 'silent', why: asked.error.message }, clocks: ticking };
    return {
      cores:
        asked.value && asked.value.cores > 0
          ? { kind: 'unmapped', count: asked.value.cores, fingerprint: asked.value.fingerprint }
          : { kind: 'none' },
      clocks: ticking,
    };
  }
  const hub = await openHub(chain, part, device, map);
  return {
    cores: hub.ok
      ? { kind: 'found', names: map.cores.map((core) => `${core.kind} ${core.name}`) }
      : { kind: 'silent', why: hub.error.message },
    clocks: ticking,
  };
}

async function watchPins(
  chain: ChainSession,
  device: number,
  devices: readonly ScannedDevice[],
  pins: readonly { readonly port: string; readonly pin: string }[],
): Promise<AfterLoad['clocks']> {
  const target = devices[device];
  if (!target || !('pins' in target) || pins.length === 0) return [];
  const queue = new ScanQueue(chain.cable);
  const scan = new BoundaryScan(
    queue,
    devices.map((one, place): ScannedDevice => (place === device ? (one as BoundaryMap) : { irLength: one.irLength })),
  );
  const seen = new Map<string, Set<number>>();
  const lookOften = async () => {
    for (let look = 0; look < LOOKS; look++) {
      // Looks at even distances would meet a clock of a whole multiple at one level again and again.
      queue.clock(look % UNEVEN_CLOCKS);
      for (const { pin, level } of await scan.sample())
        if (level !== null && pins.some((one) => one.pin === pin))
          seen.set(pin, (seen.get(pin) ?? new Set()).add(level));
    }
    await scan.release();
  };
  await lookOften();
  const ticks = (pin: string) => seen.get(pin)?.size === 2;
  if (!pins.every(({ pin }) => ticks(pin))) await atAnotherTck(chain, lookOften);
  return pins.map(({ port, pin }) => ({ port, pin, ticks: ticks(pin) }));
}

/**
 * A clock as fast as TCK, or a multiple of it, stands still for whoever looks with TCK: from another one it does not.
 */
async function atAnotherTck(chain: ChainSession, look: () => Promise<void>): Promise<void> {
  const { tckHz } = await chain.cable.state();
  await chain.cable.setFrequency(tckHz * OTHER_TCK);
  try {
    await look();
  } finally {
    await chain.cable.setFrequency(tckHz);
  }
}
