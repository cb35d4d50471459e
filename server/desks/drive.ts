import { drive, type Driven, stepClock, type StepOrder } from '../../core/operations/index.ts';
import type { StepperState } from '../../core/probes/index.ts';
import { type Result, settle } from '../../core/result.ts';
import type { Given } from './needs.ts';
import { currentProbes, short } from '../project/index.ts';

type Needs = Pick<Given, 'board' | 'store' | 'project' | 'changed'>;

/**
 * Reads gauges, after moving levers if any are named. Only moves are written to the logbook; live reading would drown
 * it.
 */
export async function driveNow(
  on: Needs,
  set: Readonly<Record<string, bigint | null>>,
  cycles: number | null = null,
): Promise<Result<Driven>> {
  const probes = await currentProbes(on);
  if (!probes.ok) return probes;
  const { map, part } = probes.value;
  const work = () => on.board.cable((chain) => drive(chain, { part, device: null, map, set, cycles }));
  if (Object.keys(set).length === 0) return work();
  const startedAt = Date.now();
  const moves = Object.fromEntries(
    Object.entries(set).map(([name, value]) => [name, value === null ? 'released' : String(value)]),
  );
  const entry = await on.store.logbook.open(
    'Drive',
    on.board.name,
    { build: short(map.fingerprint), ...moves, ...(cycles === null ? {} : { cycles: String(cycles) }) },
    await on.project.name(),
  );
  const driven = await work().catch(async (error: unknown) => {
    await on.store.logbook.close(
      entry,
      'failed',
      error instanceof Error ? error.message : String(error),
      Date.now() - startedAt,
    );
    throw error;
  });
  await on.store.logbook.close(
    entry,
    driven.ok ? 'done' : 'failed',
    driven.ok
      ? Object.entries(moves)
          .map(([name, value]) => `${name} = ${value}`)
          .join(', ')
          .concat(cycles === null ? '' : ` for ${cycles} cycles`)
      : driven.error.message,
    Date.now() - startedAt,
  );
  on.changed();
  return driven;
}

/** Gives an order to a stepper, or looks at it alone; orders are written to the logbook. */
export async function stepNow(on: Needs, stepper: string, order: StepOrder | null): Promise<Result<StepperState>> {
  const probes = await currentProbes(on);
  if (!probes.ok) return probes;
  const { map, part } = probes.value;
  const work = () => on.board.cable((chain) => stepClock(chain, { part, device: null, map, stepper, order }));
  if (order === null) return work();
  const startedAt = Date.now();
  const said = { build: short(map.fingerprint), stepper, ...saidOf(order) };
  const entry = await on.store.logbook.open('Step', on.board.name, said, await on.project.name());
  const stepped = await settle(work);
  const told = stepped.ok ? Object.values(saidOf(order)).join(' ') : stepped.error.message;
  await on.store.logbook.close(entry, stepped.ok ? 'done' : 'failed', told, Date.now() - startedAt);
  on.changed();
  return stepped;
}

function saidOf(order: StepOrder): Readonly<Record<string, string>> {
  switch (order.way) {
    case 'hold':
    case 'run':
      return { way: order.way };
    case 'step':
      return { way: 'step', steps: String(order.count) };
    case 'until':
      return { way: 'until', condition: order.condition, most: String(order.most) };
  }
}
