import { drive, type Driven } from '../../core/operations/index.ts';
import type { Result } from '../../core/result.ts';
import type { Given } from './needs.ts';
import { currentProbes, short } from '../project/index.ts';

type Needs = Pick<Given, 'board' | 'store' | 'project' | 'changed'>;

/**
 * Reads gauges, after moving levers if any are named. Only moves are written to the logbook; live reading would drown
 * it.
 */
export async function driveNow(on: Needs, set: Readonly<Record<string, bigint | null>>): Promise<Result<Driven>> {
  const probes = await currentProbes(on);
  if (!probes.ok) return probes;
  const { map, part } = probes.value;
  const work = () => on.board.cable((chain) => drive(chain, { part, device: null, map, set }));
  if (Object.keys(set).length === 0) return work();
  const startedAt = Date.now();
  const moves = Object.fromEntries(
    Object.entries(set).map(([name, value]) => [name, value === null ? 'released' : String(value)]),
  );
  const entry = await on.store.logbook.open(
    'Drive',
    on.board.name,
    { build: short(map.fingerprint), ...moves },
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
      : driven.error.message,
    Date.now() - startedAt,
  );
  on.changed();
  return driven;
}
