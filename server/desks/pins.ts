import type { PinSession } from '../board/index.ts';
import { BoundaryScan, type PinLevel } from '../../core/boundary/index.ts';
import { ScanQueue } from '../../core/jtag/index.ts';
import { fail, ok, type Result } from '../../core/result.ts';
import { problem } from './problems.ts';
import type { Given } from './needs.ts';

type Needs = Pick<Given, 'board' | 'store' | 'project' | 'changed'>;

export interface PinsNow {
  readonly levels: readonly PinLevel[];
  /** Pins driven by EXTEST, as `place.pin`. */
  readonly driven: Readonly<Record<string, 0 | 1>>;
  /** Ports of the design that runs, and nets of the board, by `place.pin`. */
  readonly names: Readonly<Record<string, string>>;
  /** Case of each device by its place in the chain; null where it is not known. */
  readonly packages: readonly (string | null)[];
  /** EXTEST was ended by another operation since the last look. */
  readonly ended: boolean;
}

/** Levels of all pins now: by SAMPLE, or, while pins are driven, by EXTEST. */
export async function lookAtPins(on: Needs): Promise<Result<PinsNow>> {
  return on.board.cable(async (chain): Promise<Result<PinsNow>> => {
    const session = live(on);
    const ended = on.board.said.pins !== null && session === null;
    on.board.said.pins = session ? { ...session, turn: on.board.turns } : null;
    if (session)
      return ok({
        levels: await session.scan.apply(),
        driven: Object.fromEntries(session.driven),
        names: await on.project.pinNames(),
        packages: packagesOf(session.scan),
        ended: false,
      });
    const devices = await on.board.scannedChain(chain);
    if (!devices.ok) return devices;
    const scan = new BoundaryScan(new ScanQueue(chain.cable), devices.value);
    const levels = await scan.sample();
    await scan.release();
    return ok({ levels, driven: {}, names: await on.project.pinNames(), packages: packagesOf(scan), ended });
  });
}

/** Drives a pin, or leaves it alone again with null. All pins of the device are taken over meanwhile. */
export async function drivePin(on: Needs, place: number, pin: string, level: 0 | 1 | null): Promise<Result<PinsNow>> {
  const done = await on.board.cable(async (chain): Promise<Result<PinsNow>> => {
    const before = live(on);
    let scan = before?.scan ?? null;
    if (!scan) {
      const devices = await on.board.scannedChain(chain);
      if (!devices.ok) return devices;
      const wanted = devices.value.map((device, i) => (i === place ? device : { irLength: device.irLength }));
      scan = new BoundaryScan(new ScanQueue(chain.cable), wanted);
    }
    if (!scan.set(place, pin, level)) return fail(problem('no-driver', { pin, place }));
    await scan.apply();
    const driven = new Map(before?.driven);
    if (level === null) driven.delete(`${place}.${pin}`);
    else driven.set(`${place}.${pin}`, level);
    on.board.said.pins = { scan, turn: on.board.turns, driven };
    return ok({
      levels: await scan.apply(),
      driven: Object.fromEntries(driven),
      names: await on.project.pinNames(),
      packages: packagesOf(scan),
      ended: false,
    });
  });
  if (done.ok)
    await on.store.logbook.record(
      'Drive pin',
      on.board.name,
      { pin: `${place}.${pin}`, level: level === null ? 'released' : String(level) },
      await on.project.name(),
    );
  return done;
}

/** Gives all pins back. */
export async function releasePins(on: Needs): Promise<void> {
  const released = await on.board.cable(async () => {
    const session = live(on);
    on.board.said.pins = null;
    await session?.scan.release();
    return session !== null;
  });
  if (released) await on.store.logbook.record('Release pins', on.board.name, {}, await on.project.name());
}

/** Asked with the cable in hand, which makes this the turn after the session's own if nobody came between. */
const live = (on: Needs): PinSession | null =>
  on.board.said.pins && on.board.said.pins.turn === on.board.turns - 1 ? on.board.said.pins : null;

const packagesOf = ({ devices }: BoundaryScan): PinsNow['packages'] =>
  devices.map((device) => ('packageName' in device ? device.packageName : null));
